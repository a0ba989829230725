"""What the worker beside the server runs."""

from django_tasks import task

from studio.jobs import services


@task()
def run(name: str, pk: int) -> None:
    """Do one job; and put those in line again whose process was killed."""
    services.revive()
    services.carry_out(name, pk)
