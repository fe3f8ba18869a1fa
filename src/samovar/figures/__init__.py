"""Charts as SVG and PDF, and the one palette that screens and figures share."""
