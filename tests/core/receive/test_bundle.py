"""Bundles: what is in one, by which name, and what becomes of the rest."""

import shutil
import zipfile
from pathlib import Path

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.receive.bundle import beside, open_bundle
from tests.support import SHED, FolderCase


class BundleCase(FolderCase):
    def bundle(self, members: dict[str, bytes]):  # type: ignore[no-untyped-def]
        path = self.folder / "all.zip"
        with zipfile.ZipFile(path, "w") as archive:
            for name, data in members.items():
                archive.writestr(name, data)
        inside = self.folder / "inside"
        inside.mkdir()
        return open_bundle([("all.zip", path)], inside), inside


class Bundles(BundleCase):
    def test_two_files_of_one_bare_name_both_enter(self) -> None:
        shed = SHED.read_bytes()
        other = shed.replace(b"Boat shed", b"Bait shed")
        found, inside = self.bundle({"a/shed.ifc": shed, "b/Shed.ifc": other, "b/c/shed.ifc": shed})
        self.assertEqual(sorted([found.name, *found.others]), ["a/shed.ifc", "b/Shed.ifc", "b/c/shed.ifc"])
        self.assertEqual((inside / "a/shed.ifc").read_bytes(), shed)
        self.assertEqual((inside / "b/Shed.ifc").read_bytes(), other)

    def test_two_dropped_files_of_one_name_both_enter(self) -> None:
        laid = []
        for number in (1, 2):
            path = self.folder / f"blob-{number}"
            path.write_bytes(SHED.read_bytes())
            laid.append((f"folder {number}/shed.ifc", path))
        inside = self.folder / "inside"
        inside.mkdir()
        found = open_bundle(laid, inside)
        self.assertEqual(sorted([found.name, *found.others]), ["folder 1/shed.ifc", "folder 2/shed.ifc"])

    def test_what_no_reader_takes_is_named(self) -> None:
        members = {"shed.ifc": SHED.read_bytes(), "notes.txt": b"for the render", ".DS_Store": b"x", "Thumbs.db": b"x"}
        found, _ = self.bundle(members)
        self.assertEqual([(item.code, item.where) for item in found.findings], [("passed-over", "notes.txt")])

    def test_names_that_reach_out_stay_inside(self) -> None:
        shed = SHED.read_bytes()
        found, inside = self.bundle({"../../shed.ifc": shed, "/etc/shed.ifc": shed, "..\\shed.ifc": shed})
        laid = [found.root, *(inside / name for name in found.others)]
        self.assertEqual(len(laid), 3)
        for path in laid:
            self.assertTrue(Path(path).resolve().is_relative_to(inside.resolve()), path)


def step(name: str, *members: str) -> bytes:
    """An exchange file that names others."""
    documents = "".join(f"#{k + 1}=DOCUMENT_FILE('{member}','',$,$,'');\n" for k, member in enumerate(members))
    return f"ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('CONFIG_CONTROL_DESIGN'));\nENDSEC;\nDATA;\n/* {name} */\n{documents}ENDSEC;\nEND-ISO-10303-21;\n".encode()


class Assemblies(BundleCase):
    def test_the_one_that_nobody_names_is_the_root(self) -> None:
        found, _ = self.bundle(
            {"nut.stp": step("nut") * 9, "all.stp": step("all", "plate.stp"), "plate.stp": step("plate", "nut.stp")}
        )
        self.assertEqual((found.root.name, found.others, found.findings), ("all.stp", [], []))

    def test_a_member_is_found_in_another_case_and_folder(self) -> None:
        found, inside = self.bundle({"all.stp": step("all", "parts/Plate.STP"), "x/plate.stp": step("plate")})
        self.assertEqual(found.root.name, "all.stp")
        self.assertEqual([item.code for item in found.findings], ["outside-reference"])
        # The reader follows the bare name, and finds it.
        self.assertIn(b"'Plate.STP'", (inside / "all.stp").read_bytes())
        self.assertIn(b"/* plate */", (inside / "Plate.STP").read_bytes())

    def test_a_missing_member_is_named_and_a_reference_out_is_cut_down(self) -> None:
        found, inside = self.bundle({"all.stp": step("all", "../../etc/secret.stp", "C:\\\\parts\\\\bolt.stp")})
        self.assertEqual(
            [item.code for item in found.findings],
            ["outside-reference", "missing-member", "outside-reference", "missing-member"],
        )
        for word in ("secret.stp", "bolt.stp"):
            self.assertTrue(any(word in item.message for item in found.findings), word)
        data = (inside / "all.stp").read_bytes()
        self.assertEqual(data.replace(b"\\", b"/").count(b"/"), step("all").count(b"/"))

    def test_a_reference_out_in_any_letters_leads_to_the_member(self) -> None:
        found, inside = self.bundle(
            {"all.stp": step("all", "parts/O''Grady \\X2\\03B1\\X0\\.stp"), "O'Grady α.stp": step("grady")}
        )
        self.assertEqual((found.root.name, found.others), ("all.stp", []))
        self.assertEqual([item.code for item in found.findings], ["outside-reference"])
        self.assertIn(rb"DOCUMENT_FILE('O''Grady \X2\03B1\X0\.stp',", (inside / "all.stp").read_bytes())

    def test_members_that_name_each_other_have_a_root_all_the_same(self) -> None:
        found, _ = self.bundle({"a.stp": step("a", "b.stp"), "b.stp": step("b", "a.stp")})
        self.assertEqual(found.root.name, "a.stp")

    def test_what_lies_beside_a_file_on_disk(self) -> None:
        for name, data in {
            "all.stp": step("all", "Plate.stp", "gone.stp"),
            "plate.stp": step("plate", "nut.stp"),
            "nut.stp": step("nut"),
            "other.stp": step("o"),
        }.items():
            (self.folder / name).write_bytes(data)
        self.assertEqual([path.name for path in beside(self.folder / "all.stp")], ["plate.stp", "nut.stp"])
        self.assertEqual(beside(self.folder / "nut.stp"), [])


class Hostile(BundleCase):
    def refused(self, members: dict[str, bytes], word: str) -> None:
        with self.assertRaises(UnreadableSource) as caught:
            self.bundle(members)
        self.assertIn(word, caught.exception.message)
        shutil.rmtree(self.folder / "inside")

    def test_nothing_of_use_and_nothing_at_all(self) -> None:
        self.refused({}, "empty")
        self.refused({"a.txt": b"x", "b.txt": b"y"}, "None of the 2 files")

    def test_one_that_grows_without_end(self) -> None:
        path = self.folder / "all.zip"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("a.stp", bytes(300 << 20))
        (self.folder / "inside").mkdir()
        with self.assertRaises(UnreadableSource) as caught:
            open_bundle([("all.zip", path)], self.folder / "inside")
        self.assertIn("grows far beyond", caught.exception.message)

    def test_very_many_files(self) -> None:
        self.refused({f"{k}.txt": b"" for k in range(10_001)}, "10,001 files")

    def test_a_damaged_one(self) -> None:
        path = self.folder / "all.zip"
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("shed.ifc", SHED.read_bytes())
        data = path.read_bytes()
        (self.folder / "inside").mkdir()
        for spoiled in (data[: len(data) // 2], data[:200] + bytes(50) + data[250:]):
            path.write_bytes(spoiled)
            with self.assertRaises(UnreadableSource) as caught:
                open_bundle([("all.zip", path)], self.folder / "inside")
            self.assertIn("damaged", caught.exception.message)

    def test_texts_that_begin_with_a_mark_of_their_encoding(self) -> None:
        for codec in ("utf-8-sig", "utf-16"):
            _, inside = self.bundle({"all.stp": step("all").decode().encode(codec)})
            self.assertEqual((inside / "all.stp").read_bytes(), step("all"))
            shutil.rmtree(inside)
