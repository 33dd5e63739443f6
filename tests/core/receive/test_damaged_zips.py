"""ZIPs that were damaged on their way, by the hundred: each is opened or refused in words, and nothing else."""

import random
import unittest
import zipfile
from io import BytesIO

from hemp_ladder.core.errors import UnreadableSource
from hemp_ladder.core.receive.bundle import open_bundle
from tests.support import AS1, FolderCase

PACKINGS = {
    "deflate": zipfile.ZIP_DEFLATED,
    "lzma": zipfile.ZIP_LZMA,
    "bzip2": zipfile.ZIP_BZIP2,
    "stored": zipfile.ZIP_STORED,
}


class Damaged(FolderCase):
    def opened(self, data: bytes, number: int) -> str:
        """What came of it: the name of the file to read, or the sentence it was refused with."""
        path = self.folder / f"{number}.zip"
        path.write_bytes(data)
        folder = self.folder / f"bundle-{number}"
        folder.mkdir()
        try:
            return open_bundle([("a.zip", path)], folder).name
        except UnreadableSource as refused:
            self.assertTrue(refused.message.endswith("."), refused.message)
            return refused.message

    def test_four_hundred_of_them(self) -> None:
        dice = random.Random(5)
        said: set[str] = set()
        for number in range(400):
            stream = BytesIO()
            with zipfile.ZipFile(stream, "w", list(PACKINGS.values())[number % 4]) as archive:
                archive.writestr("parts/as1.stp", AS1.read_bytes()[:20_000])
                archive.writestr("read me.txt", "Gull Rock")
            data = bytearray(stream.getvalue())
            for _ in range(dice.choice((1, 1, 3, 40))):
                data[dice.randrange(len(data))] ^= 1 << dice.randrange(8)
            if number % 5 == 0:
                del data[dice.randrange(len(data)) :]
            said.add(self.opened(bytes(data), number))
        self.assertGreater(len(said), 3)
        self.assertTrue(any("as1.stp” in the ZIP" in text for text in said), "the member is named")

    def test_a_name_of_three_hundred_letters_is_shortened_and_no_password(self) -> None:
        stream = BytesIO()
        with zipfile.ZipFile(stream, "w") as archive:
            archive.writestr("ä" * 300 + ".stp", AS1.read_bytes()[:2000])
        self.assertTrue(self.opened(stream.getvalue(), 0).endswith(".stp"))


if __name__ == "__main__":
    unittest.main()
