#!/usr/bin/env python3
"""Django's own commands, on the data folder that `LUCID_DATA` names."""

from __future__ import annotations

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
    execute_from_command_line(sys.argv)
