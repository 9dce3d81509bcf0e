"""A target is a table, read in both directions."""

from .board import Board, board_of
from .cost import memory_bytes
from .decode import decode
from .documents import DOCUMENTS
from .encode import encode_file, feeds
from .formats import FORMATS
from .handover import Claim, Handed, Note, hand_over
from .matching import NamedFile, Reading, name_pattern, offered, reading_of
from .meters import holds_meters, in_meters
from .model import Channel, Document, Target, TargetFile, Token, read_target
from .naming import file_name, legal_name, name_of_copy, slug
from .sizing import file_size
from .toml import write_target
from .wiring import Sheet, Wire, offered_documents, wires

__all__ = [
    "DOCUMENTS",
    "FORMATS",
    "Board",
    "Channel",
    "Claim",
    "Document",
    "Handed",
    "NamedFile",
    "Note",
    "Reading",
    "Sheet",
    "Target",
    "TargetFile",
    "Token",
    "Wire",
    "board_of",
    "decode",
    "encode_file",
    "feeds",
    "file_name",
    "file_size",
    "hand_over",
    "holds_meters",
    "in_meters",
    "legal_name",
    "name_of_copy",
    "memory_bytes",
    "name_pattern",
    "offered",
    "offered_documents",
    "read_target",
    "slug",
    "reading_of",
    "wires",
    "write_target",
]
