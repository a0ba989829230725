"""Long work, done by a worker beside the server."""

from django_tasks import task

from studio.renders import services


@task()
def render_video(pk: int) -> None:
    services.carry_out(pk)
