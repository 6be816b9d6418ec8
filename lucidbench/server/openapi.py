"""Prints the API's OpenAPI description, from which the browser's types are made.

What is asked on a page's line is told among the schemas, as `Line`: what is sent and what comes back, by ask.
"""

from __future__ import annotations

import json
import os
from typing import Any

import django


def described() -> dict[str, Any]:
    from ninja.schema import NinjaGenerateJsonSchema
    from pydantic import TypeAdapter

    from lucidbench.server.api import api
    from lucidbench.server.live.methods import METHODS

    inputs: list[Any] = []
    for name, method in METHODS.items():
        inputs.append(((name, "body"), "validation", TypeAdapter(method.body).core_schema))
        if method.answer is not None:
            inputs.append(
                ((name, "answer"), "serialization", TypeAdapter(method.answer).core_schema)
            )
    writer = NinjaGenerateJsonSchema(ref_template="#/components/schemas/{model}")
    told, models = writer.generate_definitions(inputs)
    schema: dict[str, Any] = api.get_openapi_schema()
    schema["components"]["schemas"] |= models
    line: dict[str, dict[str, Any]] = {name: {} for name in METHODS}
    for ((name, side), _), each in told.items():
        line[name][side] = each
    asks = {name: _object(sides) for name, sides in line.items()}
    schema["components"]["schemas"]["Line"] = _object(asks)
    return schema


def _object(properties: dict[str, Any]) -> dict[str, Any]:
    return {"type": "object", "required": list(properties), "properties": properties}


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
    django.setup()
    print(json.dumps(described(), indent=1, ensure_ascii=False))


if __name__ == "__main__":
    main()
