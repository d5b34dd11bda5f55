"""Cartons through the API: shaped, saved, refused in words, and their blank as files."""

from __future__ import annotations

from django.core.files.uploadedfile import SimpleUploadedFile

from giftwrap.core import model as core
from giftwrap.core.formats.blank_in import read_blank
from giftwrap.core.model.carton import Board
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.studio.tests.base import StudioTestCase


def setUpModule() -> None:
    """What reads drawings is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


SOAP = core.Carton(style="reverse-tuck", length=82, width=28, depth=58)


class CartonTests(StudioTestCase):
    def shape(self, form: core.Carton) -> tuple[int, dict]:
        pack = core.Pack(form=form).model_dump(mode="json")
        return self.send("post", "/api/shape", {"pack": pack})

    def test_everything_a_page_needs(self) -> None:
        status, shape = self.shape(SOAP.model_copy(update={"style": "lid-and-base"}))
        self.assertEqual((status, shape["kind"]), (200, "carton"))
        self.assertEqual([blank["name"] for blank in shape["blanks"]], ["base", "lid"])
        self.assertEqual([panel["name"] for panel in shape["panels"]], ["base", "lid"])
        self.assertEqual({surface["panel"] for surface in shape["surfaces"]}, {0, 1, None})
        for blank in shape["blanks"]:
            corners = [point for ring in blank["cuts"] for point in ring]
            self.assertAlmostEqual(min(x for x, _ in corners), 0)
            self.assertAlmostEqual(max(y for _, y in corners), blank["size"][1], places=2)
        names = {one["name"]: one for one in shape["allowances"]}
        self.assertFalse(names["lid depth"]["by_hand"])

    def test_what_cannot_be_folded_is_refused_with_its_field(self) -> None:
        for change, place in (
            ({"length": 4.0}, "length"),
            ({"board": {"caliper": 9}}, "width"),
            ({"allowances": {"tuck": 900}}, "allowances.tuck"),
            ({"closed": 2}, "closed"),
        ):
            pack = core.Pack(form=SOAP).model_dump(mode="json")
            pack["form"] |= change
            status, answer = self.send("post", "/api/shape", {"pack": pack})
            with self.subTest(place=place):
                self.assertEqual((status, answer["place"].removeprefix("pack.")), (422, f"form.{place}"))

    def test_its_blank_as_files(self) -> None:
        for form in ("svg", "dxf", "pdf"):
            response = self.client.post(
                f"/api/blank.{form}", SOAP.model_dump_json(), content_type="application/json"
            )
            self.assertEqual(response.status_code, 200)
            self.assertIn(f"blank.{form}", response["Content-Disposition"])
            self.assertEqual(len(read_blank(response.content, f"x.{form}").blank.panels), 13)
        again = self.client.post("/api/blank.png", SOAP.model_dump_json(), content_type="application/json")
        self.assertEqual(again.status_code, 422)

    def test_a_carton_has_no_labels_to_begin_with(self) -> None:
        pack = core.Pack(form=SOAP).model_dump(mode="json")
        status, answer = self.send("post", "/api/starting-panel", {"pack": pack})
        self.assertEqual(status, 422)
        self.assertIn("labelled where one picks a place", answer["message"])

    def test_a_label_is_picked_moved_and_mapped(self) -> None:
        """On the front of the closed carton, then on the board alone; its place is then one of the blank."""
        form = SOAP.model_dump(mode="json")
        bare = {"form": form}
        _, shape = self.send("post", "/api/shape", {"pack": bare})
        self.assertEqual(shape["lies_on"], ["closed carton", "carton"])
        high = shape["facts"]["size"][2] / 2
        at = [0.0, -shape["facts"]["size"][1] / 2, high]
        status, panel = self.send("post", "/api/picked-panel", {"pack": bare, "part": "carton", "at": at})
        self.assertEqual((status, panel["part"]), (200, "closed carton"), panel)
        pack = {"form": form, "panels": [{**panel, "width": 20, "height": 12}]}
        _, shape = self.send("post", "/api/shape", {"pack": pack})
        self.assertEqual((len(shape["panels"]), len(shape["sheets"])), (2, 1))
        self.assertIn("label-1", shape["parts"])
        body = {"pack": pack, "panel": 0, "part": "carton"}
        status, moved = self.send("post", "/api/moved-panel", body)
        self.assertEqual((status, moved["part"], moved["at"][2]), (200, "carton", 0.0), moved)
        status, refused = self.send("post", "/api/moved-panel", {**body, "panel": 1})
        self.assertEqual((status, refused["place"]), (422, "panel"))
        status, found = self.send("post", "/api/distortion", {"pack": pack, "panel": 1})
        self.assertEqual(status, 200, found)
        self.assertLess(found["worst"], 1e-4)
        self.assertEqual(self.send("post", "/api/preflight", {"pack": pack, "panel": 1})[0], 200)

    def test_it_is_saved_and_kept(self) -> None:
        row = self.pack()
        document = core.Pack(form=SOAP).model_dump(mode="json")
        body = {"base_revision": row["revision"], "document": document}
        self.assertEqual(self.send("put", f"/api/packs/{row['id']}", body)[0], 200)
        self.assertEqual(self.pack()["document"]["form"]["kind"], "carton")
        self.assertIn("<path", self.client.get(f"/api/packs/{row['id']}/picture.svg").content.decode())

    def test_a_blank_from_a_drawing(self) -> None:
        drawing = self.client.post("/api/blank.svg", SOAP.model_dump_json(), content_type="application/json")
        file = SimpleUploadedFile("soap.svg", drawing.content)
        read = self.client.post("/api/blank/read", {"file": file}).json()
        self.assertEqual([group["kind"] for group in read["groups"]], ["cut", "crease", "glue"])
        status, shape = self.shape(core.Carton.model_validate(read["carton"]))
        self.assertEqual((status, shape["facts"]["panels"]), (200, 13))
        file.seek(0)
        again = self.client.post("/api/blank/read?kinds=cut,none,none", {"file": file})
        self.assertEqual(again.status_code, 422)
        self.assertIn("No crease joins", again.json()["message"])

    def test_a_shape_from_a_drawing(self) -> None:
        """The largest closed outline of it, as large as it is drawn; what is no outline is refused."""
        head = b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 40 40">'
        heart = b'<path d="M20 5L35 20L20 38L5 20Z"/><circle cx="20" cy="20" r="4"/></svg>'
        found = self.client.post("/api/blank/outline", {"file": SimpleUploadedFile("a.svg", head + heart)})
        self.assertEqual(found.status_code, 200, found.content)
        answer = found.json()
        self.assertEqual((answer["across"], answer["high"], len(answer["shape"])), (30, 33, 4))
        for name, data, words in (
            ("b.svg", head + b'<path d="M5 5L20 20"/></svg>', "no closed outline"),
            ("c.svg", head + b"</svg>", "no lines"),
            ("d.png", b"\x89PNG", "neither an SVG"),
        ):
            refused = self.client.post("/api/blank/outline", {"file": SimpleUploadedFile(name, data)})
            with self.subTest(name):
                self.assertEqual(refused.status_code, 422)
                self.assertIn(words, refused.json()["message"])

    def test_what_covers_a_rigid_box_and_what_moves_with_what_is_told(self) -> None:
        rigid = SOAP.model_copy(update={"style": "lid-and-base", "board": Board(caliper=1.5, wrapped=True)})
        _, shape = self.shape(rigid)
        self.assertEqual([len(blank["paper"]) for blank in shape["blanks"]], [1, 1])
        _, shape = self.shape(SOAP.model_copy(update={"style": "gable", "width": 60}))
        moved = {c["name"]: c["follows"] for c in shape["blanks"][0]["creases"]}
        self.assertEqual((moved["roof back"], moved["roof front"]), ("roof front", None))

    def test_how_many_packs_fit_a_case(self) -> None:
        shape = {"pack": core.Pack(form=SOAP).model_dump(mode="json")}
        status, found = self.send("post", "/api/packed", {"shape": shape, "inside": [170, 120, 130]})
        self.assertEqual(
            (status, found["count"], found["across"], found["deep"], found["high"]), (200, 16, 2, 4, 2)
        )
        self.assertEqual(self.send("post", "/api/packed", {"shape": shape, "inside": [170, 0, 130]})[0], 422)
