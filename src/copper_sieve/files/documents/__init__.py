"""Material documents written beside the images."""

from .gltf import gltf_document

__all__ = ["gltf_document"]
