"""What the worker beside the server runs."""

from django_tasks import task

from studio.jobs import services


@task()
def run(name: str, pk: int) -> None:
    """Do one job; and put those in line again whose process was killed."""
    # Whoever works next is the first to know that somebody does not any more.
    services.revive()
    # Each that waits has a task of its own: which of them does it is all the same.
    services.carry_out(name, services.next_in_line(name) or pk)
