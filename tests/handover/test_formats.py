"""Every format read back by a second library: equal within what it keeps; colour against a reference, tags, names, weights."""

from __future__ import annotations

import contextlib
import os
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import OpenImageIO as oiio
import PIL.Image
import pytest

os.environ.setdefault("OPENCV_IO_ENABLE_OPENEXR", "1")

from hasty_reel.errors import WrongInput
from hasty_reel.handover.deliver import Delivery, deliver, form_named, form_of
from hasty_reel.handover.films import FILM, FILMS, FilmOptions
from hasty_reel.handover.names import Naming, checked_pattern, collisions, filled_name, next_version, target_of
from hasty_reel.handover.threadpriority import TASKS, no_real_time
from hasty_reel.handover.video import video_file
from hasty_reel.handover.weigh import as_noisy, weigh
from hasty_reel.image.luminance import luminance
from hasty_reel.pictures.colour import dithered8
from hasty_reel.pictures.colourspaces import AP1, OUTPUTS, REC709, in_colour, output_named, outputs_of
from hasty_reel.pictures.frame import Picture, read_header, read_picture
from hasty_reel.pictures.outputs import FORMAT, FORMATS, PictureOptions, checked_options, write_format
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture

SRGB, LIGHT = output_named("sRGB"), output_named("linear Rec. 709")


@pytest.fixture(scope="module")
def picture() -> Picture:
    """Noise on a ramp, beyond display white and below nothing, as light has it."""
    rng = np.random.default_rng(5)
    ramp = np.linspace(-0.05, 3.0, 96, dtype=np.float32)[None, :, None] * np.array([1.0, 0.6, 0.2], np.float32)
    rgb = ramp + 0.02 * rng.standard_normal((54, 96, 3)).astype(np.float32)
    return Picture(rgb, {"Z": rgb[..., 0].copy(), "A": np.full((54, 96), 0.5, np.float32)}, {"hr:recipe": "abc"})


@pytest.fixture
def sequence(tmp_path, picture):
    pattern = read_pattern(str(tmp_path / "in" / "sh010.####.exr"))
    for k in range(25):
        write_picture(pattern.path(1001 + k), Picture(np.roll(np.abs(picture.rgb), 3 * k, axis=1)))
    return pattern


def by_pillow(path: Path) -> np.ndarray:
    with PIL.Image.open(path) as image:
        return np.asarray(image, np.float64)


def by_opencv(path: Path) -> np.ndarray:
    found = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert found is not None, path
    return found[..., [2, 1, 0, *range(3, found.shape[-1])]].astype(np.float64)


@pytest.mark.parametrize("compression", FORMAT["exr-half"].compressions)
@pytest.mark.parametrize("data", ["half", "float"])
def test_openexr_of_every_compression_comes_back_within_what_it_keeps(tmp_path, picture, compression, data):
    """Half: 11 bits of significand (IEEE 754). PXR24: 24 of 32 bits; B44 and DWA: lossy (openexr.com, technical introduction)."""
    form, path = FORMAT[f"exr-{data}"], tmp_path / "a.exr"
    write_format(path, picture, form, PictureOptions(compression))
    image = oiio.ImageBuf(str(path))
    back = image.get_pixels(oiio.FLOAT)[..., :3]
    off = np.abs(back - picture.rgb)
    assert image.spec().get_string_attribute("compression").startswith(compression)
    if form.lossless(compression):
        assert (off <= np.abs(picture.rgb) * 2.0**-11 + 1e-7).all() if data == "half" else not off.any()
    elif compression == "pxr24":
        assert (off <= np.abs(picture.rgb) * 2.0**-15 + 1e-7).all()
    else:
        assert off.max() < 0.2 and (off.any() or data == "float"), "lossy, and near"


def test_openexr_keeps_layers_alpha_tiles_and_what_it_is(tmp_path, picture):
    path = tmp_path / "a.exr"
    options = PictureOptions("dwaa", 45.0, tiles=True, layers=True)
    tags = {"chromaticities": AP1, "FramesPerSecond": (24000, 1001)}
    write_format(path, picture, FORMAT["exr-half"], options, tags)
    spec = oiio.ImageBuf(str(path)).spec()
    assert set(spec.channelnames) == {"R", "G", "B", "A", "Z"} and spec.tile_width == 64
    assert spec.getattribute("chromaticities") == pytest.approx(AP1, abs=1e-6)
    assert spec.getattribute("FramesPerSecond") in ((24000, 1001), pytest.approx(24000 / 1001))
    assert spec.getattribute("hr:recipe") == "abc"


def test_a_data_window_keeps_what_is_not_empty_and_is_read_as_large_as_it_is_shown(tmp_path):
    """Windows as in the OpenEXR technical introduction: pixels of a part of the display window, or beyond it."""
    rgb = np.zeros((54, 96, 3), np.float32)
    rgb[10:20, 30:71] = np.random.default_rng(2).random((10, 41, 3), dtype=np.float32) + 0.5
    path, whole = tmp_path / "a.exr", tmp_path / "whole.exr"
    for tiles in (False, True):
        write_format(path, Picture(rgb), FORMAT["exr-float"], PictureOptions("none", tiles=tiles, window=True))
        spec = oiio.ImageBuf(str(path)).spec()
        assert (spec.x, spec.y, spec.width, spec.height, spec.full_width, spec.full_height) == (30, 10, 41, 10, 96, 54)
        np.testing.assert_array_equal(read_picture(path).rgb, rgb)
        head = read_header(path, whole=True)
        assert (head.width, head.height) == (96, 54)
    write_format(whole, Picture(rgb), FORMAT["exr-float"], PictureOptions("none"))
    assert path.stat().st_size < whole.stat().st_size / 3
    write_format(path, Picture(np.zeros((8, 9, 3), np.float32)), FORMAT["exr-half"], PictureOptions(window=True))
    assert not read_picture(path).rgb.any() and read_picture(path).rgb.shape == (8, 9, 3)
    beyond = oiio.ImageSpec(20, 10, 3, "float")  # rendered beyond the borders, for what is moved later
    beyond.x, beyond.y, beyond.full_x, beyond.full_y, beyond.full_width, beyond.full_height = -4, -2, 0, 0, 12, 6
    out = oiio.ImageOutput.create(str(path))
    planes = np.arange(600, dtype=np.float32).reshape(10, 20, 3)
    assert out.open(str(path), beyond) and out.write_image(planes) and out.close()
    np.testing.assert_array_equal(read_picture(path).rgb, planes[2:8, 4:16])
    with pytest.raises(WrongInput, match="PNG, 8 bit: has no data window; expected OpenEXR"):
        checked_options(FORMAT["png-8"], PictureOptions(window=True))


@pytest.mark.parametrize("key, read, most", [
    ("png-8", by_pillow, 255), ("png-16", by_opencv, 65535), ("tiff-8", by_pillow, 255), ("tiff-16", by_opencv, 65535),
])  # fmt: skip
def test_codes_come_back_equal(tmp_path, picture, key, read, most):
    form = FORMAT[key]
    path = tmp_path / f"a{form.ending}"
    write_format(path, Picture(picture.rgb), form)
    np.testing.assert_array_equal(read(path), np.rint(np.clip(picture.rgb, 0, 1) * most))


def test_float_tiff_jpeg_and_ten_bits(tmp_path, picture):
    write_format(tmp_path / "a.tif", Picture(picture.rgb), FORMAT["tiff-float"])
    np.testing.assert_array_equal(by_opencv(tmp_path / "a.tif"), picture.rgb.astype(np.float64))
    smooth = Picture(np.clip(cv2.GaussianBlur(picture.rgb, (0, 0), 4), 0, 1))
    write_format(tmp_path / "a.jpg", smooth, FORMAT["jpeg"], PictureOptions(quality=98))
    assert np.abs(by_pillow(tmp_path / "a.jpg") - smooth.rgb * 255).mean() < 2.5
    write_format(tmp_path / "a.dpx", Picture(picture.rgb), FORMAT["dpx-10"])
    back = oiio.ImageBuf(str(tmp_path / "a.dpx")).get_pixels(oiio.FLOAT)
    assert np.abs(back - np.clip(picture.rgb, 0, 1)).max() <= 0.52 / 1023
    with av.open(str(tmp_path / "a.dpx")) as second:
        frame = next(second.decode(video=0)).reformat(format="gbrp10le", threads=1).to_ndarray()
    assert frame.shape[:2] == (54, 96) and frame.max() <= 1023


def test_sizes_without_compression_are_those_of_the_arithmetic(tmp_path, picture):
    """W x H x channels x bytes, and a head of less than four kilobytes."""
    for form, each in ((FORMAT["exr-half"], 2), (FORMAT["exr-float"], 4), (FORMAT["tiff-16"], 2), (FORMAT["tiff-8"], 1)):
        path = tmp_path / f"{form.key}{form.ending}"
        write_format(path, Picture(picture.rgb), form, PictureOptions("none"))
        assert 0 <= path.stat().st_size - 54 * 96 * 3 * each < 4096, form.key


@pytest.mark.parametrize("form", FILMS, ids=lambda f: f.key)
def test_films_have_their_frames_rate_tags_and_key_frames(tmp_path, sequence, form):
    assert form.there, "the video library that ships with the program carries its coder"
    target = tmp_path / f"film{form.ending}"
    deliver(sequence, str(target), Fraction(24000, 1001), Delivery(form, SRGB, film=FilmOptions(gop=10)))
    with av.open(str(target)) as container:
        stream = container.streams.video[0]
        context = stream.codec_context
        frames = list(container.decode(video=0))
        assert len(frames) == 25 and float(stream.average_rate) == pytest.approx(24000 / 1001, rel=1e-4)
        if stream.pix_fmt.startswith("yuv"):
            assert (int(context.color_primaries), int(context.colorspace)) == (1, 1) and int(context.color_trc) == 13
        keys = [k for k, f in enumerate(frames) if f.key_frame]
    if form.option:
        assert keys[0] == 0 and max(b - a for a, b in zip(keys, [*keys[1:], 25])) <= 10
    else:
        assert keys == list(range(25)), "every frame stands by itself"


def test_no_coder_leaves_a_thread_that_others_must_wait_for(tmp_path):
    """An AV1 coder asks for real-time scheduling, which root is given: the window would then stand still."""
    codes = dithered8(np.random.default_rng(5).random((64, 128, 3), dtype=np.float32))
    with video_file(tmp_path / "film.mp4", Fraction(24), FILM["mp4-av1"]) as film:
        for _ in range(3):
            film.add(codes)
        during = {os.sched_getscheduler(int(task.name)) for task in TASKS.iterdir()}
    assert during == {os.SCHED_OTHER}
    with no_real_time(), contextlib.suppress(PermissionError):  # what it undoes, done by hand where the system grants it
        os.sched_setscheduler(0, os.SCHED_FIFO, os.sched_param(1))
    assert os.sched_getscheduler(0) == os.SCHED_OTHER


def test_ffv1_is_exact_and_sound_goes_along(tmp_path, sequence):
    import wave

    sound = tmp_path / "tide.wav"
    with wave.open(str(sound), "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(48000)
        out.writeframes((8000 * np.sin(np.arange(48000 * 3) / 30)).astype("<i2").tobytes())
    target = tmp_path / "film.mkv"
    deliver(sequence, str(target), Fraction(25), Delivery(FILM["mkv-ffv1"], SRGB, film=FilmOptions(sound=sound)))
    with av.open(str(target)) as container:
        frames = [f.reformat(format="rgb24", threads=1).to_ndarray() for f in container.decode(video=0)]
    with av.open(str(target)) as container:
        heard = sum(f.samples for f in container.decode(audio=0)) / 48000
    from hasty_reel.pictures.frame import read_picture

    for k in (0, 24):
        expected = dithered8(in_colour(read_picture(sequence.path(1001 + k), ()).rgb, SRGB))
        np.testing.assert_array_equal(frames[k], expected)
    assert heard == pytest.approx(1.0, abs=0.06), "cut where the pictures end"
    with pytest.raises(WrongInput, match="no sound can be read there"):
        silent = FilmOptions(sound=sequence.path(1001))
        deliver(sequence, str(tmp_path / "b.mkv"), Fraction(25), Delivery(FILM["mkv-ffv1"], SRGB, film=silent))


def test_colours_are_those_of_their_standards():
    """sRGB: IEC 61966-2-1. BT.1886: gamma 2.4. ACEScg: Rec. 709 red in AP1, by matrices from the chromaticities (SMPTE RP 177)."""

    def to_xyz(c):
        p = np.array([[c[0] / c[1], 1, (1 - c[0] - c[1]) / c[1]], [c[2] / c[3], 1, (1 - c[2] - c[3]) / c[3]],
                      [c[4] / c[5], 1, (1 - c[4] - c[5]) / c[5]]]).T  # fmt: skip
        white = np.array([c[6] / c[7], 1, (1 - c[6] - c[7]) / c[7]])
        return p * np.linalg.solve(p, white), white

    red = np.array([[[1.0, 0.0, 0.0]]], np.float32)
    (a, wa), (b, wb) = to_xyz(REC709), to_xyz(AP1)
    cat = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])  # Bradford
    adapt = np.linalg.inv(cat) @ np.diag((cat @ wb) / (cat @ wa)) @ cat
    expected = np.linalg.solve(b, adapt @ a @ [1.0, 0.0, 0.0])
    np.testing.assert_allclose(in_colour(red, output_named("ACEScg"))[0, 0], expected, atol=2e-3)
    grey = np.full((1, 1, 3), 0.18, np.float32)
    assert in_colour(grey, SRGB)[0, 0, 0] == pytest.approx(0.46135613, abs=1e-4)
    assert in_colour(grey, output_named("Rec. 1886"))[0, 0, 0] == pytest.approx(0.18 ** (1 / 2.4), abs=1e-4)
    np.testing.assert_array_equal(in_colour(grey, LIGHT), grey)
    assert in_colour(grey * 20, output_named("sRGB, tone curve")).max() < 1.0


def test_colours_are_those_of_a_general_colour_library():
    """Against colour-science: matrices with Bradford adaptation, the curves of IEC 61966-2-1 and ITU-R BT.1886 with a black of 0."""
    import colour

    rng = np.random.default_rng(6)
    light = rng.uniform(0.0, 1.0, (16, 16, 3)).astype(np.float32)
    into = colour.matrix_RGB_to_RGB(colour.RGB_COLOURSPACES["ITU-R BT.709"], colour.RGB_COLOURSPACES["ACEScg"], "Bradford")
    np.testing.assert_allclose(in_colour(light, output_named("ACEScg")), light @ into.T, atol=2e-4)
    np.testing.assert_allclose(in_colour(light, SRGB), colour.models.eotf_inverse_sRGB(light), atol=2e-4)
    curved = colour.models.eotf_inverse_BT1886(light, L_B=0, L_W=1)
    np.testing.assert_allclose(in_colour(light, output_named("Rec. 1886")), curved, atol=2e-4)
    for names, ours in (("ITU-R BT.709", REC709), ("ACEScg", AP1)):
        space = colour.RGB_COLOURSPACES[names]
        np.testing.assert_allclose([*space.primaries.ravel(), *space.whitepoint], ours, atol=5e-4)


def test_a_configuration_of_the_artists_adds_its_displays(tmp_path):
    import PyOpenColorIO as ocio

    path = tmp_path / "show.ocio"
    path.write_text(ocio.Config.CreateFromBuiltinConfig("cg-config-v5.0.0_aces-v2.1_ocio-v2.6").serialize())
    names = [o.name for o in outputs_of(path)]
    assert names[:2] == ["linear Rec. 709", "ACEScg"] and "sRGB - Display: Un-tone-mapped" in names
    grey = np.full((1, 1, 3), 0.18, np.float32)
    theirs = in_colour(grey, output_named("sRGB - Display: Un-tone-mapped", path), path)
    np.testing.assert_allclose(theirs, in_colour(grey, SRGB), atol=2e-4)
    (tmp_path / "bad.ocio").write_text("no configuration")
    with pytest.raises(WrongInput, match=r"bad\.ocio: no colour configuration"):
        outputs_of(tmp_path / "bad.ocio")
    with pytest.raises(WrongInput, match=r"Colour 'Sepia'; expected one of: linear Rec\. 709; ACEScg; sRGB"):
        output_named("Sepia")


@pytest.mark.parametrize("key, options, words", [
    ("png-8", PictureOptions("zip"), "compression 'zip'; expected one of none to choose"),
    ("exr-half", PictureOptions("gzip"), "expected one of zip, none, rle"),
    ("exr-half", PictureOptions("zip", 45.0), "goes with compression dwaa or dwab"),
    ("jpeg", PictureOptions(quality=0), "quality 0; expected 1 to 100"),
    ("tiff-16", PictureOptions(layers=True), "keeps no layers"), ("png-16", PictureOptions(tiles=True), "keeps no tiles"),
])  # fmt: skip
def test_options_that_a_format_does_not_have_are_told(key, options, words):
    with pytest.raises(WrongInput, match=words):
        checked_options(FORMAT[key], options)


def test_deliveries_that_lose_something_say_so():
    assert Delivery(FORMAT["exr-half"], LIGHT).warnings == []
    assert "Lossy" in Delivery(FORMAT["exr-half"], LIGHT, PictureOptions("dwaa")).warnings[0]
    assert any("8 bit" in w for w in Delivery(FORMAT["png-8"], SRGB).warnings)
    assert any("4:2:0" in w for w in Delivery(FILM["mp4-h264"], SRGB).warnings)
    with pytest.raises(WrongInput, match="cannot keep scene-linear light"):
        Delivery(FORMAT["png-16"], output_named("ACEScg")).checked()
    with pytest.raises(WrongInput, match="Format 'gif'; expected one of exr-half"):
        form_named("gif")
    assert form_of("a.####.tif").key == "tiff-16" and len({f.key for f in (*FORMATS, *FILMS)}) == len(FORMATS) + len(FILMS)
    assert [o.name for o in OUTPUTS][:2] == ["linear Rec. 709", "ACEScg"]


def test_names_are_filled_checked_and_counted_up(tmp_path):
    naming = Naming("sh010", "Final, warm", "Tidal Orrery", "")
    assert filled_name("{shot}/{shot}_{recipe}_v{version}.{frame}", naming, 3, "1001") == "sh010/sh010_Final-warm_v003.1001"
    target = target_of(tmp_path, "{shot}.v{version}", ".mp4", naming, 1)
    assert target == tmp_path / "sh010.v001.mp4" and next_version(tmp_path, "{shot}.v{version}", ".mp4", naming) == 1
    target.touch()
    assert next_version(tmp_path, "{shot}.v{version}", ".mp4", naming) == 2, "both are kept"
    pictures = "{shot}/v{version}/{shot}.{frame}"
    (tmp_path / "sh010" / "v001").mkdir(parents=True)
    (tmp_path / "sh010" / "v001" / "sh010.1001.png").touch()
    assert next_version(tmp_path, pictures, ".png", naming) == 2 and next_version(tmp_path, pictures, ".exr", naming) == 1
    assert collisions("{recipe}.{frame}", [naming, Naming("sh020", "Final, warm", "Tidal Orrery")]) == [("sh010", "sh020")]
    assert collisions("{shot}.{frame}", [naming, Naming("sh020", "Final, warm", "Tidal Orrery")]) == []


@pytest.mark.parametrize("pattern, film, words", [
    ("", True, "expected 1 to 200 characters"), ("{shot}.{take}", True, "no place is called '{take}'"),
    ("../{shot}", True, "leads outside the chosen folder"), ("/{shot}", True, "leads outside"),
    ("{shot}", False, "no {frame} in the file's name"), ("{shot}.{frame}", True, "a film is one file"),
    ("a:b", True, "':' cannot stand in a name"), ("{shot", True, "'{' cannot stand"), ("a /b", True, "begins or ends with a blank"),
])  # fmt: skip
def test_names_that_no_file_can_have_are_told(pattern, film, words):
    with pytest.raises(WrongInput, match=words):
        checked_pattern(pattern, film)


def test_a_shot_weighs_what_frames_as_noisy_as_planned_weigh():
    rng = np.random.default_rng(2)
    clean = np.repeat((0.3 + 0.2 * np.sin(np.arange(160) / 9.0))[None, :, None], 90, axis=0) * np.ones(3)
    one, two = (np.float32(clean) + 0.04 * rng.standard_normal((90, 160, 3)).astype(np.float32) for _ in range(2))
    for noise in (0.02, 0.05):
        made = as_noisy(one, two, noise)
        assert float(np.std(luminance(made - clean.astype(np.float32)))) == pytest.approx(noise, rel=0.15)
    how = Delivery(FORMAT["exr-half"], LIGHT)
    calm, noisy = (weigh([as_noisy(one, two, n)], how, Fraction(24), 160 * 90) for n in (0.02, 0.08))
    assert calm.bytes < noisy.bytes and calm.low < calm.bytes < calm.high, "grain compresses badly"
    assert calm.of(96) == pytest.approx((96 * calm.bytes, 96 * calm.high))
    plain = weigh([one], Delivery(FORMAT["exr-half"], LIGHT, PictureOptions("none")), Fraction(24), 1920 * 1080)
    assert plain.bytes == pytest.approx(1920 * 1080 * 3 * 2, rel=0.05)
    film = weigh([one] * 12, Delivery(FILM["mp4-h264"], SRGB), Fraction(24), 160 * 90)
    assert 0 < film.bytes < calm.bytes


def test_layers_have_files_of_their_own_and_a_panorama_says_so(tmp_path, picture):
    pattern = read_pattern(str(tmp_path / "in" / "a.####.exr"))
    write_picture(pattern.path(1), Picture(np.abs(picture.rgb), {"Z": picture.guides["Z"], "albedo.R": picture.guides["A"]}))
    how = Delivery(FORMAT["exr-half"], LIGHT, PictureOptions(layers=True, apart=True), panorama=True)
    deliver(pattern, str(tmp_path / "out" / "a.####.exr"), Fraction(24), how)
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == ["a.0001.exr", "a.Z.0001.exr", "a.albedo.0001.exr"]
    depth = oiio.ImageBuf(str(tmp_path / "out" / "a.Z.0001.exr"))
    np.testing.assert_allclose(depth.get_pixels(oiio.FLOAT)[..., 0], picture.guides["Z"], rtol=1e-3, atol=1e-6)
    spec = oiio.ImageBuf(str(tmp_path / "out" / "a.0001.exr")).spec()
    assert spec.getattribute("textureformat") == "LatLong Environment" and set(spec.channelnames) == {"R", "G", "B"}
