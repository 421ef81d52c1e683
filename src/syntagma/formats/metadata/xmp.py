"""The XMP packet (ISO 16684-1) with the properties of the IPTC Photo Metadata Standard 2025.1: what
a picture shows, the prompt that it was made by, who wrote that, the system, and that it was made by
a trained model.
"""

from typing import NamedTuple
from xml.sax.saxutils import escape

SOURCE_TYPE = "http://cv.iptc.org/newscodes/digitalsourcetype/trainedAlgorithmicMedia"
_RDF, _X, _XML = (
    "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
    "adobe:ns:meta/",
    "http://www.w3.org/XML/1998/namespace",
)  # as ISO 16684-1 has them
_DC, _EXT = "http://purl.org/dc/elements/1.1/", "http://iptc.org/std/Iptc4xmpExt/2008-02-29/"
MOST = 8 << 20  # characters of a packet that is read


class Properties(NamedTuple):
    """What is said of a picture. `others`: what else a packet says, by name."""

    description: str = ""
    prompt: str = ""
    writer: str = ""
    system: str = ""
    version: str = ""
    source_type: str = ""
    credit: str = ""
    others: dict[str, str] = {}


_NAMES = {
    "prompt": (_EXT, "AIPromptInformation"),
    "writer": (_EXT, "AIPromptWriterName"),
    "system": (_EXT, "AISystemUsed"),
    "version": (_EXT, "AISystemVersionUsed"),
    "source_type": (_EXT, "DigitalSourceType"),
}


def packet(said: Properties) -> bytes:
    """The packet that says it."""
    parts = []
    if said.description:
        parts.append(
            "<dc:description><rdf:Alt><rdf:li"
            f' xml:lang="x-default">{_safe(said.description)}</rdf:li></rdf:Alt></dc:description>'
        )
    if said.credit:
        parts.append(
            "<dc:rights><rdf:Alt><rdf:li"
            f' xml:lang="x-default">{_safe(said.credit)}</rdf:li></rdf:Alt></dc:rights>'
        )
    for name, (_, tag) in _NAMES.items():
        if value := getattr(said, name):
            parts.append(f"<Iptc4xmpExt:{tag}>{_safe(value)}</Iptc4xmpExt:{tag}>")
    body = "\n   ".join(parts)
    return (
        f'<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n<x:xmpmeta xmlns:x="{_X}">\n'
        f' <rdf:RDF xmlns:rdf="{_RDF}">\n  <rdf:Description rdf:about="" xmlns:dc="{_DC}"'
        f' xmlns:Iptc4xmpExt="{_EXT}">\n   {body}\n  </rdf:Description>\n'
        ' </rdf:RDF>\n</x:xmpmeta>\n<?xpacket end="w"?>'
    ).encode()


def _safe(text: str) -> str:
    """Text as XML takes it: a control character, which XML can't express, becomes a space."""
    return escape(
        "".join(
            (
                letter
                if letter in "\t\n\r"
                or (
                    letter >= " "
                    and letter not in "\ufffe\uffff"
                    and not "\ud800" <= letter <= "\udfff"
                )
                else " "
            )
            for letter in text
        )
    ).replace("\r", "&#13;")


def read_packet(data: bytes) -> Properties | None:
    """What a packet says; None if it is none that can be read."""
    from xml.etree.ElementTree import ParseError

    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        tree = fromstring(data[:MOST].decode("utf-8", "replace").strip("\0\ufeff \n\r\t"))
    except (ParseError, DefusedXmlException, ValueError, RecursionError):
        return None
    found: dict[str, str] = {}
    for described in tree.iter(f"{{{_RDF}}}Description"):
        for name, value in described.attrib.items():
            if not name.startswith(f"{{{_RDF}}}") and value.strip():
                found[name] = value
        for child in described:
            text = (
                "; ".join(part.strip() for part in child.itertext() if part.strip())
                if len(child)
                else (child.text or "")
            )
            if text.strip():
                found[child.tag] = text
    known = {name: found.pop(f"{{{space}}}{tag}", "") for name, (space, tag) in _NAMES.items()}
    description, credit = found.pop(f"{{{_DC}}}description", ""), found.pop(f"{{{_DC}}}rights", "")
    return Properties(
        description,
        credit=credit,
        **known,
        others={name.rpartition("}")[2]: value for name, value in found.items()},
    )
