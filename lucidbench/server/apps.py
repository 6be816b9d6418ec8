"""The Django application."""

from django.apps import AppConfig


class ServerConfig(AppConfig):
    name = "lucidbench.server"
    label = "server"
