"""A target is a table, read in both directions."""

from .board import Board, board_of
from .cost import memory_bytes
from .decode import decode
from .encode import encode_file, feeds
from .formats import FORMATS
from .handover import Note, hand_over
from .model import Channel, Document, Target, TargetFile, Token, read_target
from .naming import file_name, legal_name
from .reading import Reading, reading_of
from .sizing import file_size
from .writing import write_target

__all__ = [
    "FORMATS",
    "Board",
    "Channel",
    "Document",
    "Note",
    "Reading",
    "Target",
    "TargetFile",
    "Token",
    "board_of",
    "decode",
    "encode_file",
    "feeds",
    "file_name",
    "file_size",
    "hand_over",
    "legal_name",
    "memory_bytes",
    "read_target",
    "reading_of",
    "write_target",
]
