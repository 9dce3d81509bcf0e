"""Bytes to pictures and back. A picture holds codes exactly as stored; meaning comes later."""

from .archives import Member, is_beside, is_zip, members, names_inside
from .decoding import read, read_bytes
from .encoding import encode, write, write_bytes
from .layered import NamedPicture, encode_layers, holds_layers
from .layers import layer_names, layers, named
from .picture import Header, Picture
from .read_back import holds

__all__ = [
    "Header",
    "Member",
    "NamedPicture",
    "Picture",
    "encode",
    "encode_layers",
    "holds",
    "holds_layers",
    "is_beside",
    "is_zip",
    "layer_names",
    "layers",
    "members",
    "named",
    "names_inside",
    "read",
    "read_bytes",
    "write",
    "write_bytes",
]
