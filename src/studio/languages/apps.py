from django.apps import AppConfig


class LanguagesConfig(AppConfig):
    name = "studio.languages"
    label = "languages"
