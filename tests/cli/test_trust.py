"""A study from somebody else: what it names outside its own folder is neither read nor written before it is trusted."""

import unittest

from tests.cli.program import ProgramTest, Run

HEAD = '[study]\noutput = "out"\n[corpus]\ninput = ["texts"]\n'
STEP = '[[step]]\ncommand = "freq"\noutput = "f.csv"\n'
SECRET = "swordfish is the word that opens the cellar of the hut"


class Trust(ProgramTest):
    def setUp(self):
        super().setUp()
        self.write("own/diary.txt", f"{SECRET}\n")
        self.write("own/diary.csv", f"term\n{SECRET}\n")
        self.write("sent/texts/a.txt", "Rope and ice. The rope froze, and the snow fell.")
        self.write("sent/texts/b.txt", "Snow. The stove smoked, and the rope was wet.")
        self.state = self.folder / "state"

    def typed(self, *arguments: object) -> Run:
        return self.millstone(*arguments, own={"XDG_STATE_HOME": str(self.state)})

    def test_nothing_outside_is_read_or_written_before_it_is_trusted(self):
        sent = self.folder / "sent"
        (sent / "inner").mkdir()
        (sent / "inner/hidden.txt").symlink_to("../../own/diary.txt")
        (sent / "more").mkdir()
        (sent / "more/inner").symlink_to("../inner")
        (sent / "elsewhere").symlink_to("../own")
        self.write("sent/key.csv", "group,rank,term,freq\nx,1,rope,1\n")
        outside = self.folder / "own"
        diary = outside / "diary.txt"
        table = (
            ('[study]\noutput = "out"\n[corpus]\ninput = ["../own/diary.txt"]\n' + STEP, f"reads {diary}"),
            (f'[study]\noutput = "out"\n[corpus]\ninput = ["x={outside}"]\n' + STEP, f"reads {outside}"),
            ('[corpus]\ninput = ["../own/*.txt", "texts"]\n' + STEP, f"reads {outside}/*.txt"),
            ('[corpus]\ninput = ["more"]\n' + STEP, f"reads {diary}"),
            ('[corpus]\ninput = ["s3://bucket/texts"]\n' + STEP, "reads s3://bucket/texts"),
            (HEAD + f'[prepare]\nstop = ["{outside}/diary.csv"]\n' + STEP, f"reads {outside}/diary.csv"),
            (HEAD + STEP + 'stop = ["elsewhere/diary.txt"]\n', f"reads {diary}"),
            (HEAD + 'metadata = "../own/diary.csv"\n' + STEP, f"reads {outside}/diary.csv"),
            (HEAD + '[[step]]\ncommand = "categories"\ndictionary = ["~/d.toml"]\n', "/d.toml"),
            (HEAD.replace('"out"', '"../own"') + STEP, f"writes {outside}/f.csv"),
            (HEAD.replace('"out"', '"elsewhere"') + STEP, f"writes {outside}/f.csv"),
            (HEAD + STEP + f'chart = "{outside}/c.png"\n', f"writes {outside}/c.png"),
            (HEAD + '[[step]]\ncommand = "freq"\noutput = "../../own/lists/"\n', f"writes {outside}/lists"),
        )
        before = self.files()
        for content, named in table:
            with self.subTest(named):
                self.write("sent/s.toml", content)
                run = self.typed("run", "sent/s.toml")
                self.check_failure(run, 1, named, "type --trust once")
                self.assertIn("sent/s.toml names what lies outside its folder: it ", run.err)
                self.assertNotIn("swordfish", run.err)
                shown = self.typed("run", "sent/s.toml", "--dry-run")
                self.assertEqual(shown.code, 0, shown.err)
                self.assertIn(f"{named}\n", shown.out)
                self.assertIn("nothing else was checked", shown.err)
                (self.folder / "sent/s.toml").unlink()
                self.assertEqual(self.files(), before)

    def test_trust_is_typed_once_for_a_study_and_what_it_names(self):
        study = HEAD + '[prepare]\nstop = ["{}"]\n' + STEP
        self.write("sent/s.toml", study.format("../own/diary.txt"))
        self.assertEqual(self.typed("run", "sent/s.toml", "--trust").code, 0)
        run = self.typed("run", "sent/s.toml")
        self.assertEqual(run.code, 0)
        self.assertIn(f"outside its folder the study reads {self.folder}/own/diary.txt; it was trusted", run.err)
        # of a foreign list little is quoted
        self.assertNotIn("cellar", run.err + (self.folder / "sent/out/report.html").read_text("utf-8"))
        self.assertEqual((self.state / "millstone/trusted.json").stat().st_mode & 0o777, 0o600)
        # another list, another file, another user
        self.write("sent/s.toml", study.format("../own/diary.csv"))
        self.check_failure(self.typed("run", "sent/s.toml"), 1, "own/diary.csv", "--trust")
        self.write("sent/t.toml", study.format("../own/diary.txt"))
        self.check_failure(self.typed("run", "sent/t.toml"), 1, "own/diary.txt", "--trust")
        self.write("state/millstone/trusted.json", '{"damaged": ')
        self.check_failure(self.typed("run", "sent/s.toml"), 1, "own/diary.csv", "--trust")
        # a study that keeps to its folder is asked nothing
        self.write("sent/s.toml", HEAD + STEP)
        run = self.typed("run", "sent/s.toml")
        self.assertEqual((run.code, "outside" in run.err), (0, False), run.err)

    def test_what_init_writes_here_is_trusted_with_what_it_names(self):
        (self.folder / "studies").mkdir()
        self.assertEqual(self.typed("init", "sent/texts", "-o", "studies/mine.toml").code, 0)
        run = self.typed("run", "studies/mine.toml")
        self.assertEqual(run.code, 0, run.err)
        written = self.folder / "studies/mine.toml"
        written.write_text(written.read_text("utf-8") + 'stop = ["../own/diary.txt"]\n', "utf-8")
        self.check_failure(self.typed("run", "studies/mine.toml"), 1, "own/diary.txt", "--trust")

    def test_other_commands_ask_for_what_they_take_from_the_study(self):
        self.write("sent/s.toml", '[corpus]\ninput = ["../own/diary.txt"]\n')
        for command in ("freq", "check"):
            self.check_failure(self.typed(command, "--study", "sent/s.toml"), 1, "own/diary.txt", "--trust")
        # what is typed comes from the user
        self.assertEqual(self.typed("freq", "own/diary.txt", "--study", "sent/s.toml").code, 0)
        self.assertEqual(self.typed("check", "--study", "sent/s.toml", "--trust").code, 0)
        self.assertEqual(self.typed("freq", "--study", "sent/s.toml").code, 0)
        self.fails(2, "there is no --study", "leave --trust out", "freq", "own", "--trust")

    def test_no_secret_of_an_address_is_printed(self):
        self.write("words.csv", "group,term,freq\na,rope,1\n")
        secret = "sftp://user:pa/swordfish@host/x"
        for typed in (
            ("freq", secret),
            ("freq", f"x={secret}"),
            ("check", secret),
            ("init", secret),
            ("run", secret),
            ("chart", secret),
            ("freq", "sent/texts", "--study", secret),
            ("freq", "sent/texts", "--stop", secret),
            ("freq", "sent/texts", "--only", f"rope,{secret}"),
            ("freq", "sent/texts", "--lemmas", secret),
            ("freq", "sent/texts", "-o", secret),
            ("freq", "sent/texts", "--chart", secret),
            ("freq", "sent/texts", "--metadata", secret),
            ("freq", "sent/texts", "--cluster", secret),
            ("keyness", "sent/texts", "--against", f"{secret}.csv"),
            ("concordance", "--from", secret, "--row", "1"),
            ("categories", "sent/texts", "--dictionary", secret),
            ("logodds", "sent/texts", "--prior", secret),
        ):
            with self.subTest(typed):
                run = self.typed(*typed)
                self.assertEqual(run.code, 2, run.err)
                self.assertNotIn("swordfish", run.out + run.err)
        self.write("sent/s.toml", HEAD.replace('"texts"', f'"{secret}"') + STEP)
        for more in ((), ("--dry-run",)):
            run = self.typed("run", "sent/s.toml", *more)
            self.assertNotIn("swordfish", run.out + run.err)
            self.check_failure(run, 1, "sent/s.toml, line 4, column 1", "fix the value of input")


if __name__ == "__main__":
    unittest.main()
