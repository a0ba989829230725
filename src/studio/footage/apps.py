from django.apps import AppConfig


class FootageConfig(AppConfig):
    name = "studio.footage"
    label = "footage"

    def ready(self) -> None:
        from studio.footage import services  # noqa: F401 - it says how its work is done
