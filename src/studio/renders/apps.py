from django.apps import AppConfig


class RendersConfig(AppConfig):
    name = "studio.renders"
    label = "renders"
