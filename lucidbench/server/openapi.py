"""Prints the API's OpenAPI description, from which the browser's types are made."""

from __future__ import annotations

import json
import os

import django


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
    django.setup()
    from lucidbench.server.api import api

    print(json.dumps(api.get_openapi_schema(), indent=1, ensure_ascii=False))


if __name__ == "__main__":
    main()
