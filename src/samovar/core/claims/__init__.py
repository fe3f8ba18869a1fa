"""Claims: sentences of a verdict in a form that can be checked against the findings they stand on."""
