"""``python -m studio``: Django's commands, ``demo`` among them."""

import os
import sys

from django.core.management import execute_from_command_line


def main() -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.config.settings")
    execute_from_command_line(["coaster", *sys.argv[1:]])
    return 0
