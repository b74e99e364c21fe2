"""Running everything on one machine: the database server and the demo."""
