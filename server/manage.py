"""Django's command line."""

import os
import sys
from pathlib import Path

if __name__ == "__main__":
    # `python server/manage.py` puts server/ first, where its folders would shadow other packages.
    sys.path[0] = str(Path(__file__).resolve().parent.parent)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.project.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
