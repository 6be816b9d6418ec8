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
    from lucidbench.server.live.asks import ASKS
    from lucidbench.server.live.schemas import Progress
    from lucidbench.server.problems import Problem

    inputs: list[Any] = []
    for name, ask in ASKS.items():
        inputs.append(((name, "body"), "validation", TypeAdapter(ask.body).core_schema))
        if ask.answer is not None:
            inputs.append(((name, "answer"), "serialization", TypeAdapter(ask.answer).core_schema))
    for model in (Problem, Progress):
        inputs.append(((model.__name__, ""), "serialization", TypeAdapter(model).core_schema))
    writer = NinjaGenerateJsonSchema(ref_template="#/components/schemas/{model}")
    told, models = writer.generate_definitions(inputs)
    schema: dict[str, Any] = api.get_openapi_schema()
    schema["components"]["schemas"] |= models
    properties: dict[str, Any] = {name: {} for name in ASKS}
    for ((name, side), _), each in told.items():
        if name in ASKS:
            properties[name][side] = each
    properties = {
        name: {"type": "object", "required": list(sides), "properties": sides}
        for name, sides in properties.items()
    }
    schema["components"]["schemas"]["Line"] = {
        "type": "object", "required": list(ASKS), "properties": properties,
    }  # fmt: skip
    return schema


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "lucidbench.server.settings")
    django.setup()
    print(json.dumps(described(), indent=1, ensure_ascii=False))


if __name__ == "__main__":
    main()
