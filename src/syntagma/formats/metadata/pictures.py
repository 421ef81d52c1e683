"""Pictures of the three kinds that carry texts (PNG, JPEG, WebP): what they say of themselves, and
copies that say something else.
"""

from types import ModuleType
from typing import NamedTuple

from syntagma.formats.metadata import jpeg, png, webp
from syntagma.formats.metadata.png import BadPicture
from syntagma.formats.metadata.xmp import SOURCE_TYPE, Properties, packet, read_packet

ENDINGS = (".png", ".jpg", ".jpeg", ".webp")
PROMPT_KEYS = (
    "parameters",
    "prompt",
    "description",
    "comment",
    "usercomment",
    "imagedescription",
    "title",
    "xpcomment",
)  # where others put a prompt, best first


class PictureTexts(NamedTuple):
    """What a picture says of itself: its properties (None if it has no packet), the texts beside
    them by keyword, and whether a provenance is signed.
    """

    properties: Properties | None
    texts: dict[str, str]
    signed: bool

    @property
    def prompt(self) -> str:
        """The prompt that it says it was made by; "" if it says none."""
        if self.properties and (self.properties.prompt or self.properties.description):
            return self.properties.prompt or self.properties.description
        small = {name.lower(): text for name, text in self.texts.items()}
        return next((small[name] for name in PROMPT_KEYS if small.get(name, "").strip()), "")


def _format(data: bytes) -> ModuleType:
    if data.startswith(png.SIGNATURE):
        return png
    if data.startswith(jpeg.SIGNATURE):
        return jpeg
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return webp
    raise BadPicture("it is neither PNG nor JPEG nor WebP")


def said(data: bytes) -> PictureTexts:
    """What a picture says of itself. Raises BadPicture."""
    of = _format(data)
    found = of.xmp(data)
    return PictureTexts(read_packet(found) if found else None, of.texts(data), of.is_signed(data))


def signed(data: bytes, properties: Properties) -> bytes:
    """A copy with these properties; that it was made by a trained model is said too. Raises
    BadPicture.
    """
    return _format(data).with_xmp(
        data, packet(properties._replace(source_type=properties.source_type or SOURCE_TYPE))
    )


def bare(data: bytes) -> bytes:
    """A copy without any prompt: what stays is how it was made, and whose it is. Raises
    BadPicture.
    """
    own = said(data).properties or Properties()
    return _format(data).with_xmp(
        data,
        packet(Properties(source_type=own.source_type or SOURCE_TYPE, credit=own.credit)),
        keep_texts=False,
    )
