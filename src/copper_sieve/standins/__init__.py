"""Small simulated engines and renderers: each reads delivered files its own way, by a table written by hand.

Nothing in this room may come from the rest of the program, least of all what a target says of itself: a reader that
shares its table with the writer proves nothing.
"""

from .ball import BALL_PX, LAMPS, Ball, ball, rounded_normals, surface_of
from .comparing import ChannelOff, channels_off, faults
from .loading import Channel, File, Table, read_codes, seen
from .tables import TABLES

__all__ = [
    "BALL_PX",
    "LAMPS",
    "TABLES",
    "Ball",
    "Channel",
    "ChannelOff",
    "File",
    "Table",
    "ball",
    "channels_off",
    "faults",
    "read_codes",
    "rounded_normals",
    "seen",
    "surface_of",
]
