"""One process that holds it all: the database on loopback, the application, and their end."""

from .problem import ServerProblem
from .run import run_server

__all__ = ["ServerProblem", "run_server"]
