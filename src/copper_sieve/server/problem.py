"""What keeps the server from starting, in one line with what to do."""

__all__ = ["ServerProblem"]


class ServerProblem(Exception):
    """Said to the person at the terminal."""
