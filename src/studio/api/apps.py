from django.apps import AppConfig


class ApiConfig(AppConfig):
    name = "studio.api"
    label = "api"
