"""`python -m sunlatch.cli`."""

from . import main

main()
