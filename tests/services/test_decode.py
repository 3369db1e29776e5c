"""Picture files of every kind to the same pixels, and every bad file to one clear sentence."""

from __future__ import annotations

import contextlib
import io
import struct
import zlib

import numpy as np
import pillow_heif
import pytest
from PIL import Image, ImageCms

from bisectum.core.errors import PictureError
from bisectum.services import decode as decoding
from bisectum.services.bench import clean_name
from bisectum.services.decode import decode

pillow_heif.register_heif_opener()  # the encoder, for these tests; the application has the decoder alone


def sample(mode: str = "RGB") -> Image.Image:
    y, x = np.mgrid[0:24, 0:32]
    return Image.fromarray(np.stack([x * 8, y * 10, 255 - x * 4], -1).astype(np.uint8), "RGB").convert(mode)


def saved(image: Image.Image, kind: str, **options: object) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


@pytest.mark.parametrize(("kind", "options", "near"), [
    ("PNG", {}, 0), ("BMP", {}, 0), ("TIFF", {}, 0), ("TIFF", {"compression": "tiff_lzw"}, 0), ("WEBP", {"lossless": True}, 0),
    ("JPEG", {"quality": 95}, 30), ("AVIF", {"quality": 95}, 40), ("GIF", {}, 40),
    ("HEIF", {"quality": 95}, 40), ("HEIF", {"quality": -1, "chroma": 444, "matrix_coefficients": 0}, 0),
])
def test_every_kind_by_its_content(kind: str, options: dict[str, object], near: int) -> None:
    source, info = decode(saved(sample(), kind, **options))
    assert info.format == kind
    assert source.rgba.shape == (24, 32, 4) and source.rgba.dtype == np.uint8
    assert (source.rgba[..., 3] == 255).all()
    assert np.abs(source.rgba[..., :3].astype(int) - np.asarray(sample())).max() <= near


@pytest.mark.parametrize("mode", ["L", "P", "1", "LA", "CMYK", "RGBA"])
def test_every_colour_mode(mode: str) -> None:
    kind = "TIFF" if mode == "CMYK" else "PNG"
    source, _ = decode(saved(sample(mode), kind))
    assert np.abs(source.rgba[..., :3].astype(int) - np.asarray(sample(mode).convert("RGB"))).max() <= 1


def test_sixteen_bits_and_transparency() -> None:
    deep = np.linspace(0, 65535, 24 * 32).reshape(24, 32).astype(np.uint16)
    source, _ = decode(saved(Image.fromarray(deep), "PNG"))
    assert np.abs(source.rgba[..., 0] - deep / 257).max() <= 0.51
    clear = sample("RGBA")
    clear.putalpha(Image.fromarray(np.tile(np.arange(32, dtype=np.uint8) * 8, (24, 1))))
    assert (decode(saved(clear, "PNG"))[0].rgba[..., 3] == np.arange(32) * 8).all()
    palette = sample("P")
    source, _ = decode(saved(palette, "GIF", transparency=palette.getpixel((0, 0))))
    assert source.rgba[0, 0, 3] == 0


def test_exif_orientation_and_dpi() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # the camera was held turned: the row 0 of the file is the right side (EXIF 2.3, tag 274)
    source, info = decode(saved(sample(), "PNG", exif=exif, dpi=(300, 300)))
    assert source.rgba.shape[:2] == (32, 24)
    assert (source.rgba[:, -1, :3] == np.asarray(sample())[0]).all()
    assert info.dpi == pytest.approx(300, abs=0.1)
    assert source.natural_mm_per_px == pytest.approx(25.4 / 300, rel=1e-3)
    assert decode(saved(sample(), "PNG"))[0].natural_mm_per_px == pytest.approx(25.4 / 96)


def test_a_profile_is_brought_to_srgb() -> None:
    """A picture in another space comes out as the colour management library itself converts it."""
    lab_profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    same, _ = decode(saved(sample(), "PNG", icc_profile=lab_profile))
    assert np.abs(same.rgba[..., :3].astype(int) - np.asarray(sample())).max() <= 1
    broken, _ = decode(saved(sample(), "PNG", icc_profile=b"no profile"))
    assert (broken.rgba[..., :3] == np.asarray(sample())).all()


def test_an_animation_gives_its_first_picture() -> None:
    data = saved(sample(), "GIF", save_all=True, append_images=[sample().transpose(Image.Transpose.ROTATE_180)], duration=50)
    source, info = decode(data)
    assert info.frames == 2
    assert np.abs(source.rgba[..., :3].astype(int) - np.asarray(sample())).max() <= 40


def bomb() -> bytes:
    """A PNG header that promises 30 000 × 30 000 pixels."""
    header = struct.pack(">IIBBBBB", 30_000, 30_000, 8, 2, 0, 0, 0)
    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")


@pytest.mark.parametrize(("data", "code", "word"), [
    (b"", "picture_empty", "empty"),
    (b"a text file named .png", "picture_unknown", "PNG, JPEG"),
    (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "picture_unknown", "PNG, JPEG"),
    (saved(sample(), "PNG")[:-90], "picture_damaged", "again"),
    (saved(sample(), "JPEG")[:300], "picture_damaged", "again"),
    (saved(sample(), "HEIF")[:300], "picture_damaged", "again"),
    (b"\x89PNG\r\n\x1a\n" + b"rubbish" * 9, "picture_damaged", "again"),
    (bomb(), "picture_too_large", "100 million"),
    (b"\x89PNG" + b"\0" * (64 * 2**20), "picture_too_heavy", "64 MB"),
    (saved(Image.new("RGB", (1, 1), "red"), "PNG"), "picture_tiny", "larger"),
    (saved(Image.new("RGB", (30, 30), "red"), "PNG"), "picture_blank", "one colour"),
    (saved(Image.new("RGBA", (30, 30), (9, 9, 9, 0)), "PNG"), "picture_transparent", "transparent"),
])
def test_bad_files_get_one_sentence(data: bytes, code: str, word: str) -> None:
    with pytest.raises(PictureError) as error:
        decode(data)
    assert error.value.code == code
    assert word in error.value.message
    assert error.value.message.endswith(".") and "\n" not in error.value.message


def test_names_of_files_are_names_only() -> None:
    assert clean_name("../../etc/pass\x00wd.png") == "passwd.png"
    assert clean_name("C:\\pictures\\boat.png") == "boat.png"
    assert len(clean_name("x" * 300 + ".png")) == 80 and clean_name("x" * 300 + ".png").endswith(".png")
    assert clean_name("") == clean_name("///") == "picture"


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "GIF", "BMP", "TIFF", "AVIF", "HEIF"])
def test_whatever_is_broken_in_a_file_it_is_told_as_damage(kind: str) -> None:
    """Files cut off anywhere, and with bytes changed anywhere: a picture or a PictureError, never a decoder's own."""
    whole = saved(sample(), kind)
    rng = np.random.default_rng(7)
    for number in range(120):
        data = bytearray(whole)
        if number % 3 == 0:
            data = data[: rng.integers(8, len(data))]
        for place in rng.integers(0, len(data), 1 + number % 5):
            data[place] = rng.integers(256)
        with contextlib.suppress(PictureError):
            decode(bytes(data))


def test_a_phones_picture_is_the_right_way_up_in_its_own_colours_and_alone() -> None:
    """HEIC with an orientation, a colour profile, a second picture and a picture of depth, as phones write them."""
    upright = sample()
    exif = Image.Exif()
    exif[0x0112] = 6  # to be turned a quarter to the right
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    profile = profile.replace(b"rXYZ", b"?").replace(b"gXYZ", b"rXYZ").replace(b"?", b"gXYZ")  # its red is green
    file = pillow_heif.from_pillow(upright.transpose(Image.Transpose.ROTATE_90))
    file.add_from_pillow(Image.new("RGB", (64, 48), "red"))
    buffer = io.BytesIO()
    file.save(buffer, quality=95, exif=exif.tobytes(), icc_profile=profile)
    source, info = decode(buffer.getvalue())
    assert (info.format, info.frames, info.width, info.height) == ("HEIF", 1, 32, 24)
    assert np.abs(source.rgba[..., :3].astype(int) - np.asarray(upright)[..., [1, 0, 2]]).max() <= 40


def test_a_very_large_picture_is_read_smaller(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(decoding, "WORKING_PX", 200)
    for kind, mode in (("PNG", "RGB"), ("PNG", "P"), ("PNG", "RGBA"), ("JPEG", "RGB"), ("TIFF", "L")):
        source, info = decode(saved(sample(mode), kind))
        assert info.reduced == 2 and source.rgba.shape[:2] == (12, 16) and (info.width, info.height) == (32, 24)
        assert source.natural_mm_per_px == pytest.approx(2 * 25.4 / 96)
        plain = np.asarray(sample().convert("RGB")).reshape(12, 2, 16, 2, 3).mean(axis=(1, 3))
        if mode.startswith("RGB"):
            assert np.abs(source.rgba[..., :3] - plain).max() <= (30 if kind == "JPEG" else 1)
    deep = Image.fromarray(np.linspace(0, 65535, 24 * 32).reshape(24, 32).astype(np.uint16))
    assert decode(saved(deep, "PNG"))[0].rgba.shape[:2] == (12, 16)
