"""Use cases, one per file: the page, the command line and the tests do the same thing by the same function."""
