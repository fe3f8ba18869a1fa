"""`python -m tests [NAME ...]`: all tests, or those whose module names hold NAME."""

import sys

from tests.runner import main

if __name__ == "__main__":
    sys.exit(main())
