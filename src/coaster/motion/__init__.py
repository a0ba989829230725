"""When a rider is where: pace, rides, facing."""
