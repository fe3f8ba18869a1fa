"""Reviews as documents: a folder with a page that stands alone, figures, data, method and caveats."""
