"""Administration: ``python -m inkwell_bridge.service migrate`` and Django's other commands."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "inkwell_bridge.service.settings")
    execute_from_command_line(["inkwell-service", *sys.argv[1:]])
