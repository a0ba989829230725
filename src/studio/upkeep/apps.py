from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    name = "studio.upkeep"
    label = "upkeep"
