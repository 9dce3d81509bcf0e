"""What lies in a file of several pictures: layers of a document, pages of a TIFF, named channel groups of an EXR."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import PurePath

import tifffile

from ..core.errors import FileTooLarge, NotAnImage, SieveError, UnsupportedImage
from ..core.raster import MAX_TEXELS
from .document import DOCUMENT_MARK, document_layers, document_names
from .exr import EXR_PICTURES, exr_planes, opened
from .picture import Picture
from .tiff import tiff_page

__all__ = ["MAX_LAYERS", "MOST_TEXELS", "Layer", "layer_names", "layers", "named"]

MAX_LAYERS = 64
MOST_TEXELS = 16 * MAX_TEXELS  # of all pages together: thirty-two of 8192 px
_TIFF_MARKS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
_EXR_MARK = b"\x76\x2f\x31\x01"
_PAGE_NAME = 285  # TIFF 6.0, section 12


@dataclass(frozen=True)
class Layer:
    """One picture of several: what it is called, and its pixels over the whole document, or why they cannot be had."""

    name: str
    picture: Picture | None
    problem: SieveError | None = None

    @property
    def content(self) -> bytes:
        """The layer as a TIFF of its own, as deep as it was, with the document's profile."""
        assert self.picture is not None
        kept = io.BytesIO()
        codes, profile = self.picture.codes, self.picture.profile
        photometric = "rgb" if codes.ndim == 3 and codes.shape[2] >= 3 else "minisblack"
        extra = ["unassalpha"] if codes.ndim == 3 and codes.shape[2] in (2, 4) else None
        told = {"photometric": photometric, "extrasamples": extra, "iccprofile": profile, "compression": "zlib"}
        tifffile.imwrite(kept, codes, metadata=None, planarconfig="contig" if codes.ndim == 3 else None, **told)  # type: ignore[arg-type]
        return kept.getvalue()


def layer_names(content: bytes) -> list[str]:
    """What the layers of a file are called, in its own order; none where it holds one picture, or cannot be read at all."""
    found = _lister(content)
    if found is None:
        return []
    try:
        names = found(content)
    except Exception:  # whoever reads the picture itself will say what is wrong
        return []
    return names if len(names) > 1 or content.startswith(DOCUMENT_MARK) else []


def layers(content: bytes, name: str) -> Iterator[Layer]:
    """Every layer of a file that has several, one after the other; one that cannot be read says so, the rest goes on.

    Raises FileTooLarge where there are more than ``MAX_LAYERS``, or more texels than a job may hold.
    """
    names = layer_names(content)
    if len(names) > MAX_LAYERS:
        raise FileTooLarge(
            f"{name}: holds {len(names)} layers; at most {MAX_LAYERS} are taken one by one."
            " Take the merged picture, or save fewer layers.",
            layers=len(names),
        )
    try:
        yield from _layers(content, name, names)
    except SieveError:
        raise
    except Exception as problem:  # what decoders raise on damaged bytes is theirs to choose
        raise NotAnImage(f"{name}: its layers cannot be unpacked ({problem}). It may be cut off or damaged.") from problem


def _layers(content: bytes, name: str, names: list[str]) -> Iterator[Layer]:
    if content.startswith(DOCUMENT_MARK):
        for title, found in zip(names, document_layers(content, name)):
            yield Layer(title, *((found, None) if isinstance(found, Picture) else (None, found)))
    elif content.startswith(_EXR_MARK):
        yield from _exr_layers(content, name)
    else:
        yield from _pages(content, name)


def _lister(content: bytes) -> Callable[[bytes], list[str]] | None:
    if content.startswith(DOCUMENT_MARK):
        return lambda content: _apart(document_names(content))
    if content.startswith(_EXR_MARK):
        return lambda content: list(_exr_groups(content))
    return _page_names if content.startswith(_TIFF_MARKS) else None


def _apart(names: list[str]) -> list[str]:
    """Names that differ: what stands twice is counted."""
    often, seen = Counter(names), Counter[str]()
    told = []
    for name in names:
        seen[name] += 1
        told.append(f"{name} {seen[name]}" if often[name] > 1 else name)
    return told


# ---- pages of a TIFF ------------------------------------------------------------------------------------------------


def _full_pages(tiff: tifffile.TiffFile) -> list[tifffile.TiffPage]:
    found = []
    for page in tiff.pages:
        page = page.aspage() if not isinstance(page, tifffile.TiffPage) else page
        if not page.is_reduced:
            found.append(page)
        if len(found) > 4 * MAX_LAYERS:  # a damaged chain of pages may have no end
            break
    return found


def _page_title(page: tifffile.TiffPage, number: int) -> str:
    told = page.tags.valueof(_PAGE_NAME)
    return str(told).strip() if told and str(told).strip() else f"page {number}"


def _page_names(content: bytes) -> list[str]:
    with tifffile.TiffFile(io.BytesIO(content)) as tiff:
        return _apart([_page_title(page, k) for k, page in enumerate(_full_pages(tiff), 1)])


def _pages(content: bytes, name: str) -> Iterator[Layer]:
    with tifffile.TiffFile(io.BytesIO(content)) as tiff:
        pages = _full_pages(tiff)
        texels = sum(page.imagewidth * page.imagelength for page in pages)
        if texels > MOST_TEXELS:
            raise FileTooLarge(
                f"{name}: its {len(pages)} pages hold {texels >> 20} million texels together; at most {MOST_TEXELS >> 20} are"
                " taken page by page. Take the merged picture, or save fewer or smaller pages.",
                texels=texels,
            )
        titles = _apart([_page_title(page, k) for k, page in enumerate(pages, 1)])
        for page, title in zip(pages, titles):
            try:
                yield Layer(title, tiff_page(page, name, content))
            except SieveError as problem:
                yield Layer(title, None, problem)
            except Exception as problem:
                yield Layer(title, None, UnsupportedImage(f"{name}: its page {title!r} cannot be unpacked ({problem})."))


# ---- channel groups of an EXR ---------------------------------------------------------------------------------------

_GROUPS = (*EXR_PICTURES, "A")  # what the channels of one group may be, the fullest first


def _exr_groups(content: bytes) -> dict[str, tuple[int, list[str], str]]:
    """By a group's name: which part of the file, its channels in the order they are wanted, and their letters."""
    found: dict[str, tuple[int, list[str], str]] = {}
    with opened(content) as file:
        part = 0
        while file.seek_subimage(part, 0) and part < 4 * MAX_LAYERS:
            spec = file.spec()
            _gather(found, part, str(spec.getattribute("oiio:subimagename") or ""), list(spec.channelnames))
            part += 1
    return found


def _gather(found: dict[str, tuple[int, list[str], str]], part: int, title: str, channels: list[str]) -> None:
    groups: dict[str, dict[str, str]] = {}
    for channel in channels:
        group, _, letter = channel.rpartition(".")
        groups.setdefault(group or title, {})[letter.upper()] = channel
    for group, held in groups.items():
        whole = next((letters for letters in _GROUPS if set(letters) <= held.keys()), None)
        if whole is not None:
            found[group or "main"] = (part, [held[letter] for letter in whole], whole)
        else:
            found.update({f"{group}.{letter}" if group else letter: (part, [one], "Y") for letter, one in held.items()})


def _exr_layers(content: bytes, name: str) -> Iterator[Layer]:
    for title, (part, channels, _) in _exr_groups(content).items():
        try:
            yield Layer(title, exr_planes(content, name, part, channels))
        except SieveError as problem:
            yield Layer(title, None, problem)
        except Exception as problem:
            yield Layer(title, None, UnsupportedImage(f"{name}: its channels {title!r} cannot be unpacked ({problem})."))


def named(document: str, layer: str) -> str:
    """What a layer's file is called: the document, then the layer, with the ending of what it is kept as.

    Examples
    --------
    >>> named("Çelik wall.psd", "rough/ness")
    'Çelik wall_rough-ness.tif'
    """
    return f"{PurePath(document).stem}_{layer.replace('/', '-').replace(chr(92), '-')}.tif"
