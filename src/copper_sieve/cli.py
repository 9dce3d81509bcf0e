"""The same core from a terminal. ``--json`` prints one object; errors are one line on stderr."""

from __future__ import annotations

import io
import sys

import typer

from .core.errors import SieveError
from .terminal.channels import pack, unpack
from .terminal.convert import convert
from .terminal.look import look
from .terminal.make import make
from .terminal.mesh import mesh
from .terminal.proving import prove, verify
from .terminal.reformat import reformat
from .terminal.saved import deliver
from .terminal.say import OUR_FAULT, STOPPED
from .terminal.serve import serve
from .terminal.targets import targets

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
for command in (make, deliver, look, convert, reformat, verify, prove, unpack, pack, targets, serve):
    app.command()(command)
app.add_typer(mesh, name="mesh")


def main() -> None:
    """Run the terminal program; every error we know becomes one line and an exit status."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")  # a file's name may hold what the terminal cannot show
    try:
        app()
    except SieveError as problem:
        print(f"copper-sieve: {problem.message}", file=sys.stderr)
        sys.exit(STOPPED)
    except OSError as problem:
        print(f"copper-sieve: {problem}. Check the disk and the folder's rights.", file=sys.stderr)
        sys.exit(OUR_FAULT)


if __name__ == "__main__":
    main()
