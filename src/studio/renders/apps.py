from django.apps import AppConfig


class RendersConfig(AppConfig):
    name = "studio.renders"
    label = "renders"

    def ready(self) -> None:
        from studio.renders import services  # noqa: F401 - it says how its work is done
