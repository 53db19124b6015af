"""`python -m tray_core`."""

import sys

from tray_core.command.main import main

if __name__ == "__main__":
    sys.exit(main())
