"""What is this file? By name, by content; and a first recipe from the answers."""

from .content import Content, measure_content
from .looks import Look, look_at
from .names import NameReading, read_name
from .plan import FileEntry, plan_set

__all__ = ["Content", "FileEntry", "Look", "NameReading", "look_at", "measure_content", "plan_set", "read_name"]
