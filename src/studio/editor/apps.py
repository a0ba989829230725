from django.apps import AppConfig


class EditorConfig(AppConfig):
    name = "studio.editor"
    label = "editor"

    def ready(self) -> None:
        from studio.editor import strays  # noqa: F401 - it adds its sort to the bin
