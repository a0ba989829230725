"""Start the studio without the demo: for several people, or for work of one's own."""

from studio.upkeep.running import Running


class Command(Running):
    help = "Start server and worker on the data folder as it is, print the address."
