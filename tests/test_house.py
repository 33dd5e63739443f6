"""Setting up, starting and stopping: what is ours is known again, what is not is left alone."""

import os
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from house import commands, keeper, packages, services
from house.places import Trouble
from house.postgres import Cluster, home

SLEEPER = ["-c", "import time; time.sleep(60)"]


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        # The database's own user has to pass.
        self.folder.chmod(0o755)


class Services(Folder):
    def setUp(self) -> None:
        super().setUp()
        patch = mock.patch.object(services, "HOUSE", self.folder)
        patch.start()
        self.addCleanup(patch.stop)
        self.service = services.Service("sleeper", SLEEPER)
        self.addCleanup(self.service.stop)

    def test_started_known_again_and_stopped(self) -> None:
        self.service.start({})
        number = self.service.running
        self.assertIsNotNone(number)
        self.assertEqual(services.Service("sleeper", SLEEPER).running, number)
        self.service.start({})
        self.assertEqual(self.service.running, number)
        self.assertTrue(self.service.stop())
        self.assertIsNone(self.service.running)
        self.assertFalse(self.service.stop())

    def test_a_number_that_belongs_to_another_process_now_is_not_ours(self) -> None:
        """After a power loss the number in the file may be anybody's; its start time tells."""
        stranger = subprocess.Popen([sys.executable, *SLEEPER], start_new_session=True)
        self.addCleanup(stranger.wait)
        self.addCleanup(stranger.kill)
        (self.folder / "sleeper.pid").write_text(f"{stranger.pid} 12345")
        self.assertIsNone(self.service.running)
        self.assertFalse(self.service.stop())
        self.assertIsNone(stranger.poll())
        self.assertFalse((self.folder / "sleeper.pid").exists())

    def test_a_damaged_mark_is_no_process(self) -> None:
        for text in ("", "nonsense", "1", "-5 7"):
            (self.folder / "sleeper.pid").write_text(text)
            self.assertIsNone(self.service.running, text)

    def test_a_web_process_that_ends_at_once_says_its_last_words(self) -> None:
        broken = services.Service("broken", ["-c", "raise SystemExit('the port is mine')"])
        broken.start({})
        with self.assertRaises(Trouble) as caught:
            services.wait_for(services.free_port(20_000), broken)
        self.assertIn("the port is mine", str(caught.exception))

    def test_a_taken_port_is_passed_over(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            self.assertGreater(services.free_port(port), port)


class Kept(Folder):
    def test_a_database_that_comes_back_on_another_port_is_told_to_all(self) -> None:
        """Web and worker were told the old address: the keeper replaces both, once, and leaves them alone then."""
        for module in (services, keeper):
            patch = mock.patch.object(module, "HOUSE", self.folder)
            patch.start()
            self.addCleanup(patch.stop)
        kept = [services.Service(name, SLEEPER) for name in ("web", "worker")]
        for service in kept:
            self.addCleanup(service.stop)
        cluster = mock.Mock(port=54_331)
        cluster.url.return_value = "postgresql://127.0.0.1:54331/ladder"
        with (
            mock.patch.object(services, "web", lambda port: kept[0]),
            mock.patch.object(services, "worker", lambda: kept[1]),
            mock.patch.dict(os.environ),
        ):
            os.environ.pop("HEMP_LADDER_DATABASE", None)
            self.assertEqual(keeper.Keeper(cluster).look(), ["web", "worker"])
            first = [service.running for service in kept]
            cluster.url.return_value = "postgresql://127.0.0.1:54399/ladder"
            watch = keeper.Keeper(cluster)
            self.assertEqual(watch.look(), ["web", "worker"])
            second = [service.running for service in kept]
            self.assertTrue(all(second) and not set(first) & set(second), (first, second))
            self.assertEqual({service.database for service in kept}, {cluster.url.return_value})
            self.assertEqual(watch.look(), [])


class Database(Folder):
    def setUp(self) -> None:
        super().setUp()
        self.cluster = Cluster(self.folder / "postgres", ("fsync=off",))
        self.addCleanup(self.cluster.stop)

    def answers(self) -> bool:
        import psycopg

        with psycopg.connect(self.cluster.url()) as connection:
            return connection.execute("SELECT 1").fetchone() == (1,)

    def test_half_made_data_is_made_anew_and_a_taken_port_left_alone(self) -> None:
        self.cluster.data.mkdir(parents=True)
        (self.cluster.data / "PG_VERSION").write_text("15\n")
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            with mock.patch("house.postgres.say") as said:
                self.cluster.start(port)
            self.assertIn("made anew", said.call_args.args[0])
            self.assertNotIn(self.cluster.port, (None, port))
        self.assertTrue(self.answers())
        again = self.cluster.port
        self.cluster.start(0)
        self.assertEqual(self.cluster.port, again)

    def test_what_a_power_loss_leaves_behind_does_no_harm(self) -> None:
        """The server is killed; its file names a process that is gone. It starts again with what it held."""
        import psycopg

        self.cluster.start(0)
        with psycopg.connect(self.cluster.url(), autocommit=True) as connection:
            connection.execute("CREATE TABLE kept (n int)")
        number = int((self.cluster.data / "postmaster.pid").read_text().splitlines()[0])
        os.kill(number, 9)
        for _ in range(100):
            if self.cluster.port is None:
                break
            time.sleep(0.05)
        self.assertIsNone(self.cluster.port)
        self.assertFalse(self.cluster.stop())
        self.cluster.start(0)
        with psycopg.connect(self.cluster.url()) as connection:
            self.assertEqual(connection.execute("SELECT count(*) FROM kept").fetchone(), (0,))

    def test_a_server_that_will_not_start_is_told_with_its_log(self) -> None:
        self.cluster.start(0)
        self.cluster.stop()
        cluster = Cluster(self.folder / "postgres", ("no_such_setting=1",))
        with self.assertRaisesRegex(Trouble, "no_such_setting"):
            cluster.start(0)

    def test_where_it_lies(self) -> None:
        """In the project, unless its user may not pass there."""
        inside = self.folder / "project" / ".house"
        inside.mkdir(parents=True)
        with mock.patch("house.postgres.HOUSE", inside), mock.patch("house.postgres.say"):
            self.assertEqual(home(), inside / "postgres")
            (self.folder / "project").chmod(0o700)
            outside = home()
        if os.geteuid() == 0:
            self.assertNotIn(str(inside), str(outside))
            self.assertIn(str(inside).strip("/").replace("/", "-"), str(outside))


class Packages(Folder):
    def test_a_stamp_holds_until_an_input_changes(self) -> None:
        lock, stamp = self.folder / "lock", self.folder / "stamp"
        lock.write_text("one")
        with mock.patch.object(packages, "ROOT", self.folder):
            mark = packages._unchanged(stamp, lock)
            assert mark is not None
            stamp.write_text(mark)
            self.assertIsNone(packages._unchanged(stamp, lock))
            lock.write_text("two")
            self.assertIsNotNone(packages._unchanged(stamp, lock))

    def test_a_command_that_fails_shows_what_it_said_last(self) -> None:
        with self.assertRaises(Trouble) as caught:
            packages.run([sys.executable, "-c", "print('no such package'); raise SystemExit(3)"])
        self.assertIn("no such package", str(caught.exception))
        self.assertIn("code 3", str(caught.exception))

    def test_without_root_it_says_what_is_missing(self) -> None:
        with (
            mock.patch("os.geteuid", return_value=1000),
            mock.patch.object(packages, "_POSTGRES", self.folder / "none"),
            mock.patch("shutil.which", return_value=None),
            self.assertRaisesRegex(Trouble, "postgresql-15 and chromium-headless-shell .* root"),
        ):
            packages.ensure_debian(browser=True)

    def test_nothing_missing_installs_nothing(self) -> None:
        with mock.patch.object(packages, "run") as ran, mock.patch("shutil.which", return_value="/usr/bin/there"):
            packages.ensure_debian(browser=True)
            packages.ensure_python()
            packages.ensure_node()
        ran.assert_not_called()


class Commands(unittest.TestCase):
    def test_no_command_gives_help_and_an_unknown_one_is_wrong_usage(self) -> None:
        with mock.patch("builtins.print") as printed:
            self.assertEqual(commands.main([]), 0)
            self.assertEqual(commands.main(["--help"]), 0)
            self.assertEqual(commands.main(["fly"]), 2)
        self.assertIn("./ladder start", printed.call_args.args[0])

    def test_trouble_is_a_sentence_and_not_a_traceback(self) -> None:
        with (
            mock.patch.object(commands.packages, "ensure_debian", side_effect=Trouble("Needs root.")),
            mock.patch.object(commands, "say") as said,
            mock.patch.object(commands, "HOUSE", Path(tempfile.gettempdir())),
        ):
            self.assertEqual(commands.main(["start"]), 1)
        said.assert_called_once_with("Needs root.")

    def test_a_command_keeps_what_is_compiled_wherever_nothing_is_to_be_written_beside_sources(self) -> None:
        with (
            mock.patch.object(commands.packages, "ensure_python"),
            mock.patch.object(commands.os, "execve") as became,
            mock.patch.dict(os.environ, {"PYTHONDONTWRITEBYTECODE": "1"}),
        ):
            commands.main(["inspect", "some.step"])
        _, command, environment = became.call_args.args
        self.assertEqual(command[1:], ["-m", "hemp_ladder", "inspect", "some.step"])
        self.assertNotIn("PYTHONDONTWRITEBYTECODE", environment)
        self.assertEqual(environment["PYTHONPYCACHEPREFIX"], str(commands.HOUSE / "compiled"))

    def test_a_worker_without_a_database_is_told_so(self) -> None:
        with (
            mock.patch.object(
                commands, "_cluster", return_value=mock.Mock(url=lambda: "postgresql://ladder@127.0.0.1:None/ladder")
            ),
            mock.patch.object(commands, "say") as said,
            mock.patch.dict(os.environ),
        ):
            os.environ.pop("HEMP_LADDER_DATABASE", None)
            self.assertEqual(commands.main(["worker"]), 1)
        self.assertIn("./ladder start", said.call_args.args[0])
