import sys

from coaster.cli import main

if __name__ == "__main__":
    sys.exit(main())
