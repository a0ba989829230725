from django.apps import AppConfig


class EditorConfig(AppConfig):
    name = "studio.editor"
    label = "editor"
