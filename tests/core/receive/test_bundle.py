"""Bundles: what is in one, by which name, and what becomes of the rest."""

import zipfile
from pathlib import Path

from hemp_ladder.core.receive.bundle import open_bundle
from tests.support import SHED, FolderCase


class Bundles(FolderCase):
    def bundle(self, members: dict[str, bytes]):  # type: ignore[no-untyped-def]
        path = self.folder / "all.zip"
        with zipfile.ZipFile(path, "w") as archive:
            for name, data in members.items():
                archive.writestr(name, data)
        inside = self.folder / "inside"
        inside.mkdir()
        return open_bundle([("all.zip", path)], inside), inside

    def test_two_files_of_one_bare_name_both_enter(self) -> None:
        shed = SHED.read_bytes()
        other = shed.replace(b"Boat shed", b"Bait shed")
        found, inside = self.bundle({"a/shed.ifc": shed, "b/Shed.ifc": other, "b/c/shed.ifc": shed})
        self.assertEqual(sorted([found.root.name, *found.others]), ["b-Shed.ifc", "c-shed.ifc", "shed.ifc"])
        self.assertEqual((inside / "shed.ifc").read_bytes(), shed)
        self.assertEqual((inside / "b-Shed.ifc").read_bytes(), other)

    def test_two_dropped_files_of_one_name_both_enter(self) -> None:
        laid = []
        for number in (1, 2):
            path = self.folder / f"blob-{number}"
            path.write_bytes(SHED.read_bytes())
            laid.append((f"folder {number}/shed.ifc", path))
        inside = self.folder / "inside"
        inside.mkdir()
        found = open_bundle(laid, inside)
        self.assertEqual(sorted([found.root.name, *found.others]), ["folder 2-shed.ifc", "shed.ifc"])

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
            self.assertEqual(Path(path).resolve().parent, inside.resolve())
