"""Sheets and schedules as files, read back with other libraries: sizes, words, layers, and the same bytes twice."""

import io
import re
from collections import Counter
from xml.etree import ElementTree

import ezdxf
import ezdxf.bbox
import pypdf
import pytest
from fontTools.ttLib import TTFont

from zarfwright.core.errors import JobError
from zarfwright.core.schedules.lists import SCHEDULES, schedule
from zarfwright.core.schedules.strips import body_labels, strips
from zarfwright.core.sheet.compose import draw_sheet
from zarfwright.core.sheet.marks import Words
from zarfwright.core.sheet.pens import FACE, LAYERS, width_of
from zarfwright.formats.sheet.faces import BOLD, REGULAR, file_of, part_of, shown
from zarfwright.formats.sheet.files import sheet_file
from zarfwright.formats.sheet.pdf import reduction, tiles_of
from zarfwright.formats.sheet.strips import labels_pdf, strips_pdf
from zarfwright.formats.sheet.tables import grouped, schedule_pdf, total_name

MM = 72 / 25.4


@pytest.fixture
def rig(bench):
    """A deck 10 m wide with a truss over it and eight heads, on a sheet at 1:50."""
    bench.do("set show", name="Tide")
    bench.do("add deck", width="10m", depth="6m", height="1m", y="US 3")
    truss = bench.made("add truss", length="8m", start_trim="6m", y="US 3", name="Truß Ωмега")
    bench.do("place along rail", structure=truss, type="heron", count="8", first_number="41")
    sheet = bench.made("add sheet", look="plan", number="L1", name="Plan")
    bench.do("set view", id=sheet, view="v1", scale="1:50")
    return bench, sheet


def file(rig, kind="pdf", **how):
    bench, sheet = rig
    return sheet_file(bench.show, [bench.body(sheet)], kind, **how)[0]


def strokes(page) -> list[tuple[float, float, float, float]]:
    """The straight pieces of a page of PDF in millimetres, as its operators draw them."""
    found, scale, at, start = [], 1.0, None, None
    for operands, operator in page.get_contents().operations:
        values = [float(one) for one in operands if isinstance(one, int | float | pypdf.generic.FloatObject)]
        if operator == b"cm" and len(values) == 6 and values[1] == 0:
            scale *= values[0]
        elif operator == b"m":
            at = start = (values[0], values[1])
        elif operator == b"l":
            found.append((*at, *values[:2]))
            at = (values[0], values[1])
        elif operator == b"h" and at and start:
            found.append((*at, *start))
    return [tuple(part * scale / MM for part in line) for line in found]


def test_a_deck_of_10_m_is_200_mm_long_in_the_pdf_at_1_to_50(rig):
    reader = pypdf.PdfReader(io.BytesIO(file(rig)))
    page = reader.pages[0]
    assert (page.mediabox.width / MM, page.mediabox.height / MM) == pytest.approx((841, 594), abs=0.01)
    level = [abs(c - a) for a, b, c, d in strokes(page) if abs(b - d) < 1e-3]
    assert min(abs(long - 200) for long in level) < 0.05


def test_each_number_is_once_in_the_pdf_and_can_be_selected(rig):
    words = pypdf.PdfReader(io.BytesIO(file(rig))).pages[0].extract_text().split()
    counts = Counter(word for word in words if word in {str(n) for n in range(41, 49)})
    assert counts == {str(n): 1 for n in range(41, 49)}
    assert "Ωмега," in words


def test_the_pdf_has_its_faces_inside_and_a_layer_for_each_meaning(rig):
    reader = pypdf.PdfReader(io.BytesIO(file(rig)))
    page = reader.pages[0]
    faces = [font.get_object() for font in page["/Resources"]["/Font"].values()]
    used = [font for font in faces if "DejaVuSansCondensed" in str(font["/BaseFont"])]
    assert used
    assert all("/FontFile2" in font["/FontDescriptor"] for font in used)
    groups = reader.trailer["/Root"]["/OCProperties"]["/OCGs"]
    assert [group.get_object()["/Name"] for group in groups] == list(LAYERS)
    named = page["/Resources"]["/Properties"]
    drawn = {str(operands[1]) for operands, operator in page.get_contents().operations if operator == b"BDC"}
    assert {named[key].get_object()["/Name"] for key in drawn} >= {"Fixtures", "Structures", "Set and venue", "Labels"}


def test_a_set_is_one_pdf_with_a_bookmark_for_each_sheet(rig):
    bench, _ = rig
    bench.do("add sheet", look="front", number="L2", name="Elevation", paper="A3")
    sheets = [item.body for item in bench.show.of_kind("sheet")]
    reader = pypdf.PdfReader(io.BytesIO(sheet_file(bench.show, sheets, "pdf")[0]))
    assert [entry.title for entry in reader.outline] == ["L1 Plan", "L2 Elevation"]
    assert [round(float(page.mediabox.width) / MM) for page in reader.pages] == [841, 420]


def test_a_reduced_print_says_the_scale_that_it_has(rig):
    bench, sheet = rig
    drawing = draw_sheet(bench.show, bench.body(sheet))
    share = reduction(drawing, "A3")
    assert share == pytest.approx(841 / 420)
    page = pypdf.PdfReader(io.BytesIO(file(rig, on="A3"))).pages[0]
    assert float(page.mediabox.width) / MM == pytest.approx(420, abs=0.01)
    text = page.extract_text()
    assert f"1:{50 * share:.4g}" in text
    assert "1:50 on A1" in text


def test_tiles_hold_all_of_a_sheet_lie_over_each_other_and_are_to_scale(rig):
    bench, sheet = rig
    drawing = draw_sheet(bench.show, bench.body(sheet))
    wide, high, tiles = tiles_of(drawing, "A3")
    reader = pypdf.PdfReader(io.BytesIO(file(rig, tiles="A3")))
    assert len(reader.pages) == len(tiles)
    assert (float(reader.pages[0].mediabox.width) / MM, float(reader.pages[0].mediabox.height) / MM) == pytest.approx(
        (wide, high), abs=0.01
    )
    assert min(box.x0 for _, box in tiles) <= 0
    assert max(box.x1 for _, box in tiles) >= drawing.width_mm
    assert min(box.y0 for _, box in tiles) <= 0
    assert max(box.y1 for _, box in tiles) == drawing.height_mm
    by_name = dict(tiles)
    assert by_name["A1"].x1 - by_name["A2"].x0 == pytest.approx(10)
    level = [abs(c - a) for page in reader.pages for a, b, c, d in strokes(page) if abs(b - d) < 1e-3]
    assert min(abs(long - 200) for long in level) < 0.05


def test_the_dxf_has_the_deck_at_its_size_every_fixture_once_and_layers(rig):
    text = file(rig, "dxf").decode()
    doc = ezdxf.read(io.StringIO(text))
    assert not doc.audit().has_errors
    assert doc.header["$INSUNITS"] == 4
    space = doc.modelspace()
    set_ = [point[0] for line in space.query('LWPOLYLINE[layer=="Set and venue"]') for point in line.get_points("xy")]
    assert max(set_) - min(set_) == pytest.approx(200, abs=0.05)
    numbers = Counter(one.dxf.text for one in space.query('TEXT[layer=="Labels"]') if one.dxf.text.isdecimal())
    assert {number: numbers[number] for number in map(str, range(41, 49))} == dict.fromkeys(map(str, range(41, 49)), 1)
    assert {layer.dxf.name for layer in doc.layers} >= set(LAYERS)
    assert all(one.dxf.style in ("SHEET", "SHEET-BOLD") for one in space.query("TEXT"))


def test_the_svg_is_true_to_size_names_its_parts_and_has_its_letters_inside(rig):
    root = ElementTree.fromstring(file(rig, "svg"))
    assert (root.get("width"), root.get("viewBox")) == ("841mm", "0 0 841 594")
    parts = {group.get("data-part") for group in root.iter("{http://www.w3.org/2000/svg}g")}
    assert {"view/v1", "title", "border", "legend"} <= parts
    assert sum((part or "").startswith("label/v1/") for part in parts) == 8
    assert b"data:font/ttf;base64," in file(rig, "svg")
    assert b"url(http" not in file(rig, "svg")


@pytest.mark.parametrize("kind", ["pdf", "svg", "dxf"])
def test_the_same_show_gives_the_same_bytes(rig, kind):
    assert file(rig, kind) == file(rig, kind)


def test_what_cannot_be_written_is_said(rig):
    bench, sheet = rig
    for kind, how in (("png", {}), ("dxf", {"on": "A3"}), ("svg", {"tiles": "A4"})):
        with pytest.raises(JobError):
            sheet_file(bench.show, [bench.body(sheet)], kind, **how)


def test_hostile_names_stay_words(rig):
    bench, sheet = rig
    bench.do("set sheet", ids=[sheet], name="<b>&\"'%%c^J(\\", note="</svg><script>")
    for kind in ("svg", "pdf"):
        assert b"<script>" not in file(rig, kind)
    doc = ezdxf.read(io.StringIO(file(rig, "dxf").decode()))
    assert any("<b>&" in one.dxf.text for one in doc.modelspace().query("TEXT"))
    assert '<b>&"' in pypdf.PdfReader(io.BytesIO(file(rig))).pages[0].extract_text()
    ElementTree.fromstring(file(rig, "svg"))


# Letters


@pytest.mark.parametrize(("face", "bold"), [(REGULAR, False), (BOLD, True)])
def test_words_are_no_wider_than_room_is_left_for_them(face, bold):
    font = TTFont(file_of(face))
    letters, widths, per_em = font.getBestCmap(), font["hmtx"], font["head"].unitsPerEm
    for text in (
        "1.001",
        "41",
        "128",
        "Truss 1, trim 7.40 m",
        "Lighting plan",
        "MWmw",
        "Raked truss SL",
        "12.40",
        "SR 2.60",
    ):
        true = sum(widths[letters[ord(sign)]][0] for sign in text) / per_em * 10 / FACE
        assert true <= width_of(text, 10.0, bold) + 0.01, text
        assert width_of(text, 10.0, bold) < true * 1.6, text


def test_capitals_are_as_high_as_is_said():
    font = TTFont(file_of(REGULAR))
    assert font["glyf"]["H"].yMax / font["head"].unitsPerEm == pytest.approx(FACE)


def test_of_a_face_only_what_is_said_is_taken_and_what_it_lacks_is_asked():
    part = TTFont(io.BytesIO(part_of(REGULAR, ["Plan 1:50"])))
    assert {chr(code) for code in part.getBestCmap()} == set("Plan 1:50?")
    assert shown("Zoë Ωм 漢") == "Zoë Ωм ?"


# Schedules


@pytest.mark.parametrize("name", SCHEDULES)
def test_every_schedule_is_a_pdf_with_its_rows_and_totals_the_same_twice(rig, name):
    bench, _ = rig
    table = schedule(bench.show, name)
    data = schedule_pdf(table, "Tide")
    assert data == schedule_pdf(table, "Tide")
    text = "".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages)
    assert table.title in text
    for key, value in table.totals.items():
        assert re.search(rf"{re.escape(total_name(key))}:\s+{re.escape(f'{value:.12g}')}", text.replace("\n", " ")), key


def test_the_instrument_schedule_has_each_fixture_under_its_position(rig):
    bench, _ = rig
    table = schedule(bench.show, "instruments")
    assert [(name, len(rows)) for name, rows in grouped(table)] == [("Truß Ωмега", 8)]
    text = pypdf.PdfReader(io.BytesIO(schedule_pdf(table, "Tide", upright=True))).pages[0].extract_text()
    assert "Truß Ωмега (8)" in text
    assert all(str(number) in text.split() for number in range(41, 49))


def test_a_long_schedule_has_its_heads_on_every_page(bench):
    truss = bench.made("add truss", length="40m", start_trim="6m")
    bench.do("place along rail", structure=truss, type="dunlin", count="120", first_number="1")
    reader = pypdf.PdfReader(io.BytesIO(schedule_pdf(schedule(bench.show, "hookup"), "Long")))
    assert len(reader.pages) >= 3
    assert all("Purpose" in page.extract_text() for page in reader.pages)
    assert "page 2" in reader.pages[1].extract_text()


def test_labels_and_strips_have_every_fixture_once_where_it_hangs(rig):
    bench, _ = rig
    bench.do("place free", type="dunlin", position=[0, 0, 0], number=90)
    labels, cut = body_labels(bench.show), strips(bench.show)
    assert [label.number for label in labels] == [*map(str, range(41, 49)), "90"]
    assert labels[0].place == "Truß Ωмега, unit 1"
    (strip,) = cut
    assert [number for cell in strip.cells for _, number, _ in cell.hung] == [*map(str, range(41, 49))]
    assert [cell.along for cell in strip.cells] == [f"{bench.body(item.id).hang.along_m:.2f} m"
                                                    for item, _ in list(bench.show.fixtures())[:8]]  # fmt: skip
    data = labels_pdf("Tide", labels)
    assert data == labels_pdf("Tide", labels)
    words = pypdf.PdfReader(io.BytesIO(data)).pages[0].extract_text().split()
    assert all(words.count(str(number)) >= 1 for number in (*range(41, 49), 90))
    text = pypdf.PdfReader(io.BytesIO(strips_pdf("Tide", cut))).pages[0].extract_text()
    assert "Truß Ωмега" in text
    # Two that hang in one place share a cell; of many a strip goes on in another row.
    truss = bench.show.of_kind("truss")[0].id
    bench.do("place along rail", structure=truss, rail="upper left", type="dunlin", count="8", first_number="61")
    assert len(strips(bench.show)[0].cells) == 8
    bench.do("place along rail", structure=truss, rail="upper right", type="dunlin", count="5", first_number="71")
    again = pypdf.PdfReader(io.BytesIO(strips_pdf("Tide", strips(bench.show)))).pages[0].extract_text()
    assert "Truß Ωмега, 2 of 2" in again
    assert len(labels_pdf("Long", body_labels(bench.show) * 3)) > len(data)


def test_totals_are_named_in_words():
    assert [total_name(key) for key in ("power_w", "total_kg", "without_address", "L1_w", "sheet_m2", "fixtures")] == [
        "power W", "total kg", "without address", "L1 W", "sheet m²", "fixtures",
    ]  # fmt: skip


def test_no_word_is_on_a_sheet_twice_under_a_label(rig):
    bench, sheet = rig
    drawing = draw_sheet(bench.show, bench.body(sheet))
    labels = [mark for mark in drawing.marks if isinstance(mark, Words) and mark.part.startswith("label/")]
    boxes = list(drawing.views[0].labels.values())
    assert len(labels) == 16, "a number and a unit of each"
    assert all(not a.meets(b) for k, a in enumerate(boxes) for b in boxes[:k])
