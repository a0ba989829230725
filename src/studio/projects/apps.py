from django.apps import AppConfig


class ProjectsConfig(AppConfig):
    name = "studio.projects"
    label = "projects"
