"""What pictures say of themselves: written and read by us, read by another program, the pixels the same."""

import io
import json
import shutil
import struct
import subprocess

import numpy as np
import pytest
from PIL import Image, PngImagePlugin

from syntagma.formats.metadata import exif
from syntagma.formats.metadata.pictures import BadPicture, bare, said, signed
from syntagma.formats.metadata.xmp import SOURCE_TYPE, Properties, packet, read_packet

PIXELS = (np.random.default_rng(1).random((33, 47, 3)) * 255).astype("uint8")
SAID = Properties(
    "A fox & a “hen”", "A fox\n<wet> & ünlit 狐", "Ada", "curlew-still", "2", credit="Island line"
)


def made(kind: str) -> bytes:
    image, out = Image.fromarray(PIXELS), io.BytesIO()
    if kind == "png":
        info = PngImagePlugin.PngInfo()
        info.add_text("parameters", "a secret fox")
        info.add_itxt("more", "zweimal ü", zip=True)
        info.add_text("packed", "secret " * 40, zip=True)
        image.save(out, "PNG", pnginfo=info)
    elif kind == "jpg":
        block = Image.Exif()
        block[0x010E], block[0x0112] = "a fox, a secret prompt", 6
        image.save(out, "JPEG", exif=block, comment="a secret comment", icc_profile=b"x" * 500)
    else:
        if "alpha" in kind:
            image.putalpha(90)
        image.save(
            out,
            "WEBP",
            lossless="lossless" in kind,
            **({"exif": Image.Exif().tobytes()} if "exif" in kind else {}),
        )
    return out.getvalue()


KINDS = ["png", "jpg", "webp", "webp lossless", "webp lossless alpha", "webp exif"]


@pytest.mark.parametrize("kind", KINDS)
def test_signed_and_bare(kind, tmp_path):
    before = made(kind)
    after = signed(before, SAID)
    found = said(after)
    assert (
        found.properties == SAID._replace(source_type=SOURCE_TYPE)
        and found.prompt == SAID.prompt
        and found.texts == said(before).texts
    )
    again = signed(after, SAID._replace(prompt="another"))
    assert said(again).prompt == "another" and len(again) < len(after) + 60
    without = bare(again)
    assert b"another" not in without and b"fox" not in without and b"secret" not in without
    assert (
        said(without).properties == Properties(source_type=SOURCE_TYPE, credit="Island line")
        and said(without).prompt == ""
    )
    for data in (after, without):
        assert (
            np.asarray(Image.open(io.BytesIO(data))) == np.asarray(Image.open(io.BytesIO(before)))
        ).all()
    if kind == "jpg":
        assert (
            Image.open(io.BytesIO(without)).getexif()[0x0112] == 6
            and Image.open(io.BytesIO(without)).info["icc_profile"] == b"x" * 500
        )


@pytest.mark.skipif(
    not shutil.which("exiftool"),
    reason="not run: exiftool is not installed (Debian: libimage-exiftool-perl)",
)
@pytest.mark.parametrize("kind", KINDS)
def test_another_program_reads_it(kind, tmp_path):
    path = tmp_path / f"x.{kind.split()[0]}"

    def read(data: bytes) -> dict[str, str]:
        path.write_bytes(data)
        return json.loads(
            subprocess.run(
                ["exiftool", "-json", "-G1", "-XMP:all", "-Warning", str(path)],
                capture_output=True,
                text=True,
            ).stdout
        )[0]

    before, found = read(made(kind)), read(signed(made(kind), SAID))
    assert (
        found["XMP-iptcExt:AIPromptInformation"] == SAID.prompt
        and found["XMP-iptcExt:AISystemUsed"] == "curlew-still"
    )
    assert (
        found["XMP-iptcExt:DigitalSourceType"] == SOURCE_TYPE
        and found["XMP-dc:Description"] == SAID.description
        and before.get("ExifTool:Warning") == found.get("ExifTool:Warning")
    )


def test_what_others_wrote_is_read():
    assert (
        said(made("png")).prompt == "a secret fox"
        and said(made("png")).texts["more"] == "zweimal ü"
        and said(made("png")).texts["packed"].startswith("secret secret")
    )
    assert said(made("jpg")).texts == {
        "ImageDescription": "a fox, a secret prompt",
        "comment": "a secret comment",
    }
    assert said(made("webp")).prompt == "" and said(made("webp")).properties is None


def test_a_comment_in_any_byte_order():
    for order, code in (("<", "utf-16-le"), (">", "utf-16-be")):
        text = b"UNICODE\0" + "ein Fuchs".encode(code)
        sub = struct.pack(order + "HHHII", 1, 0x9286, 7, len(text), 44)
        block = (
            {"<": b"II*\0", ">": b"MM\0*"}[order]
            + struct.pack(order + "I", 8)
            + struct.pack(order + "HHHIII", 1, 0x8769, 4, 1, 26, 0)
            + sub
            + struct.pack(order + "I", 0)
        )
        block = block + b"\0" * (44 - len(block)) + text
        assert (
            exif.texts(block) == {"UserComment": "ein Fuchs"}
            and exif.texts(exif.blanked(block)) == {}
        )
    assert exif.texts(b"II*\0\xff\xff\xff\x7f") == {} and exif.texts(b"nonsense") == {}


def test_a_signed_provenance_is_told_and_goes_in_a_copy():
    data = made("png")
    chunk = b"caBX" + b"manifest"
    import zlib

    with_it = (
        data[:33] + struct.pack(">I", 8) + chunk + struct.pack(">I", zlib.crc32(chunk)) + data[33:]
    )
    assert said(with_it).signed and not said(signed(with_it, SAID)).signed and not said(data).signed


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"a picture",
        made("png")[:60],
        made("jpg")[:40],
        made("webp")[:30],
        b"\x89PNG\r\n\x1a\n" + b"\xff" * 20,
    ],
)
def test_what_is_damaged_is_refused(data):
    with pytest.raises(BadPicture):
        signed(data, SAID)


def test_packets():
    assert read_packet(packet(Properties(prompt="a\0b\x07c"))).prompt == "a b c"
    assert (
        read_packet(b"<x") is None
        and read_packet(b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>') is None
    )
    attributes = b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description xmlns:e="http://iptc.org/std/Iptc4xmpExt/2008-02-29/" xmlns:o="http://o/" e:AISystemUsed="heron" o:Lens="85mm"/></rdf:RDF></x:xmpmeta>'
    assert read_packet(attributes).system == "heron" and read_packet(attributes).others == {
        "Lens": "85mm"
    }
    with pytest.raises(BadPicture):
        signed(made("jpg"), Properties(prompt="x" * 70_000))
    assert said(signed(made("png"), Properties(prompt="x" * 70_000))).prompt == "x" * 70_000
