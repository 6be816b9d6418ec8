from django.apps import AppConfig


class Accounts(AppConfig):
    name = "lucidbench.server.accounts"
    label = "accounts"
