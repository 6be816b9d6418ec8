from django.apps import AppConfig


class Exercises(AppConfig):
    name = "lucidbench.server.exercises"
    label = "exercises"
