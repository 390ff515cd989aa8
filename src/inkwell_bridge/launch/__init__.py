"""Starting everything on one machine: a private PostgreSQL, the service, a worker, the stand-ins."""
