"""Make the sample corpus that ships in src/millstone/data/demo. All of it is invented.

    python tools/make_sample.py [FOLDER]

Sentence frames and word lists lie in tools/sample. The seed is fixed: the same script gives the same bytes.
Each planted term or category stands in no other frame, so that its rates are those of plants.txt.
"""

import csv
import datetime
import io
import random
import re
import sys
from collections import Counter, deque
from dataclasses import dataclass
from pathlib import Path

HERE = Path(__file__).parent / "sample"
TARGET = Path(__file__).parent.parent / "src" / "millstone" / "data" / "demo"
HUTS = ("Ostrel", "Fallowmere", "Haskgate")
PARTIES = {
    "Ostrel": ("friends", "club", "couple", "solo", "family"),
    "Fallowmere": ("family", "family", "school", "couple", "club"),
    "Haskgate": ("solo", "solo", "couple", "friends", "club"),
}
PARTY_NAMES = {
    "family": ("family of four", "family of five", "Family, 3 generations", "parents + 2 children", "big family"),
    "club": ("climbing club, 7 people", "walking club (12)", "Climbing Club", "choir on tour", "club, 9"),
    "school": ("school class, 22", "class 4b", "school trip"),
    "couple": ("couple", "two of us", "a couple", "2 persons"),
    "solo": ("alone", "solo", "one person", "single walker"),
    "friends": ("friends, 4", "three friends", "group of friends", "rope team of 2"),
}
TOPICS = (
    *("food", "sleep", "people", "view", "animals", "plants", "thanks", "complaint"),
    *("advice", "humour", "thoughts", "plans", "odds"),
)
YEARS = (2016, 2017, 2018, 2019)
ENTRIES_PER_HUT = 330
WINTER_HUT, WINTER_ENTRIES = "Haskgate", 90
SHARE_BY_SEASON = {"winter": 1.0, "spring": 0.05, "autumn": 0.05, "summer": 0.0}
RANGES = {
    "n": (2, 9),
    "n2": (4, 30),
    "km": (14, 43),
    "age": (3, 11),
    "days": (6, 95),
    "mid": (110, 960),
    "big": (11, 999),
    "height": (1400, 2700),
    "big3": (1800, 2400),
}
WINDOW = 8
MOST_ENTRIES_PER_RUN = 2
SLIPS = 0.015


@dataclass(frozen=True)
class Plant:
    """A planted term or category: its hut, ratio and rate elsewhere per token, and its carriers."""

    kind: str
    name: str
    hut: str
    ratio: float
    rate: float
    words: tuple[str, ...]
    frames: tuple[str, ...]

    def rate_at(self, hut: str) -> float:
        return self.rate * (self.ratio if hut == self.hut else 1)


@dataclass(frozen=True)
class Course:
    """A term whose rate per token goes with the date or the season, the same at each hut but for a factor."""

    kind: str
    name: str
    facts: tuple[str, ...]
    frames: tuple[str, ...]

    def rate_at(self, row: dict[str, str]) -> float:
        if self.kind == "change":
            factor, rate = map(float, self.facts)
            return rate / 1000 * factor ** (years_of(row["date"]) - YEARS[0])
        if self.kind == "loud":
            return float(self.facts[2]) / 1000 if row["date"][:7] != self.facts[0] else 0
        factor, rate = map(float, self.facts)
        return rate / 1000 * SHARE_BY_SEASON[row["season"]] * (factor if row["hut"] == WINTER_HUT else 1)


def years_of(date: str) -> float:
    day = datetime.date.fromisoformat(date).timetuple().tm_yday
    return int(date[:4]) + (day - 1) / 365


def read_courses(path: Path) -> list[Course]:
    courses = []
    for head, frames in read_sections(path).items():
        kind, name, *facts = head.split()
        courses.append(Course(kind, name, tuple(facts), tuple(frames)))
    return courses


def read_sections(path: Path) -> dict[str, list[str]]:
    sections: dict[str, list[str]] = {}
    for line in path.read_text("utf-8").splitlines():
        if line.startswith("["):
            lines = sections.setdefault(line.strip("[]"), [])
        elif line.strip() and not line.startswith("#"):
            lines.append(line)
    return sections


def read_lists(path: Path) -> dict[str, list[str]]:
    lines = [line for line in path.read_text("utf-8").splitlines() if line and not line.startswith("#")]
    return {
        name[1:]: [item.strip() for item in items.split(";")]
        for name, items in zip(lines[::2], lines[1::2], strict=True)
    }


def read_borne(path: Path) -> set[str]:
    """The surnames that are not made up: somebody has them."""
    lines = [line for line in path.read_text("utf-8").splitlines() if not line.startswith("#")]
    return {name.strip() for line in lines for name in line.split(",") if name.strip()}


def read_plants(path: Path) -> list[Plant]:
    plants = []
    for head, frames in read_sections(path).items():
        facts, _, words = head.partition("|")
        kind, name, hut, ratio, rate = facts.split()
        items = tuple(word.strip() for word in words.split(";")) if words else (name,)
        plants.append(Plant(kind, name, hut, float(ratio), float(rate) / 1000, items, tuple(frames)))
    return plants


class Writer:
    """Fills frames with words; what is drawn depends on the seed alone."""

    def __init__(self, seed: str) -> None:
        self.random = random.Random(seed)
        self.lists = read_lists(HERE / "words.txt")
        self.decks: dict[str, list[str]] = {}
        made = (a + b for a in self.lists["syl1"] for b in self.lists["syl2"])
        borne = read_borne(HERE / "no_surnames.txt")
        surnames = [name for name in made if name not in borne]
        for name in ("place", "climb", "club", "town"):
            self.lists[name] = [one for one in self.lists[name] if not borne & set(re.findall(r"\w+", one))]
        self.random.shuffle(surnames)
        self.lists["surname"] = surnames
        self.used: set[str] = set()
        self.just_said: deque[str] = deque(maxlen=24)
        self.just_used: deque[str] = deque(maxlen=30)

    def draw(self, name: str) -> str:
        """Half the time a favourite (early items more often), half the time the next of a shuffled deck."""
        items = self.lists[name]
        for _ in range(8):
            favourite = name != "surname" and self.random.random() < 0.35
            item = items[int(len(items) * self.random.random() ** 2.5)] if favourite else self.dealt(name)
            if item not in self.just_said:
                break
        self.just_said.append(item)
        return item

    def dealt(self, name: str) -> str:
        deck = self.decks.setdefault(name, [])
        if not deck:
            deck.extend(self.random.sample(self.lists[name], len(self.lists[name])))
        return deck.pop()

    def number(self, name: str) -> str:
        r = self.random
        if name in RANGES:
            return str(r.randint(*RANGES[name]))
        if name == "nth":
            number = r.randint(2, 43)
            ending = "th" if 10 < number % 100 < 14 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
            return f"{number}{ending}"
        if name == "mm":
            return f"{r.randrange(0, 60, 5):02d}"
        if name == "year":
            return str(r.randint(1981, 2014))
        return f"{int(12 * 400 ** r.random()):,}"

    def fill(self, frame: str) -> str:
        while "{" in frame:
            frame = re.sub(r"\{([^{}]*)\}", lambda found: self.choose(found[1]), frame)
        frame = re.sub(r"\ba (?=[aeiouAEIOU]\w)(?!one|uni|use|eu)", "an ", frame)
        return frame[:1].upper() + frame[1:]

    def choose(self, inside: str) -> str:
        part = self.random.choice(inside.split("|"))
        if part in RANGES or part in ("nth", "big2", "mm", "year"):
            return self.number(part)
        if part == "surname2":
            return self.draw("surname").lower()
        if part == "name":
            return self.draw("given")
        if part in self.lists:
            return self.draw(part)
        return re.sub(r"@(\w+?)(\^|~2|~)?(?!\w)", lambda found: self.item(found[1], found[2] or ""), part)

    def item(self, name: str, form: str) -> str:
        text = self.draw(name)
        if form == "^":
            return text[:1].upper() + text[1:]
        if form in ("~", "~2"):
            text = re.sub(r"^(a|an|the|two|three|somebody's|my|some) ", "", text)
        return text.split()[-1] if form == "~2" else text

    def sentence(self, frames: list[str], fits) -> str:
        """A sentence not written before that fits; after many tries, the last."""
        for attempt in range(60):
            frame = self.random.choice(frames)
            text = self.fill(frame)
            is_fresh = frame not in self.just_used or attempt > 20
            if is_fresh and text not in self.used and fits(text):
                break
        self.used.add(text)
        self.just_used.append(frame)
        return text

    def slip(self, text: str, spared: set[str]) -> str:
        """Some words misspelt as hurried hands do."""

        def mistake(found: re.Match[str]) -> str:
            word = found[0]
            if self.random.random() > SLIPS or word.lower() in spared:
                return word
            at = self.random.randrange(1, len(word) - 2)
            way = self.random.randrange(4)
            if way == 0:
                return word[:at] + word[at + 1] + word[at] + word[at + 2 :]
            if way == 1:
                return word[:at] + word[at + 1 :]
            if way == 2:
                return word[:at] + word[at] + word[at:]
            wrong = self.random.choice("aeioun")
            return word[:at] + (wrong.upper() if word.isupper() else wrong) + word[at + 1 :]

        return re.sub(r"[A-Za-z]{5,}", mistake, text)


def tokens(text: str) -> list[str]:
    return re.findall(r"\w+(?:['’.,-]\w+)*", text.lower())


class Guestbook:
    """The guest books of all huts, entry after entry."""

    def __init__(self) -> None:
        self.writer = Writer("guest books")
        self.random = self.writer.random
        self.frames = read_sections(HERE / "frames.txt")
        self.plants = read_plants(HERE / "plants.txt")
        self.anecdotes = read_sections(HERE / "anecdotes.txt")
        self.courses = read_courses(HERE / "over_time.txt")
        self.spared = {word for plant in self.plants for item in plant.words for word in item.split()}
        self.spared |= {course.name for course in self.courses}
        self.gaps: dict[tuple[str, str], float] = {}
        self.check_frames()
        self.runs: Counter[tuple[str, ...]] = Counter()

    def check_frames(self) -> None:
        rest = [line for part in (self.frames, self.anecdotes) for lines in part.values() for line in lines]
        text = " ".join([*rest, *(item for items in self.writer.lists.values() for item in items)])
        carriers = " ".join(frame for plant in self.plants for frame in plant.frames if plant.kind == "category")
        carriers += " ".join(frame for course in self.courses for frame in course.frames)
        planted = [(item, carriers) for plant in self.plants for item in plant.words]
        planted += [(course.name, "") for course in self.courses]
        for item, further in planted:
            if re.search(rf"\b{re.escape(item)}\b", f"{text} {further}", re.IGNORECASE):
                raise SystemExit(f"the planted {item!r} stands in another frame or list")

    def entry(self, hut: str, season: str, party: str) -> str:
        length = max(1, min(26, round(self.random.lognormvariate(1.45, 0.6))))
        if self.random.random() < 0.05:
            return self.part(["short"], "", season)
        parts: list[str] = []
        for place in range(length):
            section = self.section(hut, season, party, place)
            part = self.part([section], " ".join(parts[-2:]), season)
            if self.random.random() < 0.07 and part.endswith("."):
                part = f"{part[:-1]}, {self.part(['join'], part, season, lower=True)}."
            parts.append(part)
        if self.random.random() < 0.14 and (told := self.anecdotes[self.random.choice([hut, "any"])]):
            parts.insert(self.random.randint(0, len(parts)), told.pop())
        for sentence in self.planted(hut, len(tokens(" ".join(parts)))):
            parts.insert(self.random.randint(1, len(parts)), sentence)
        text = " ".join(parts)
        text = self.enliven(text)
        if self.random.random() < 0.6:
            text += self.random.choice(["\n", " ", " — ", "\n"]) + self.part(["close"], "", season)
        return self.writer.slip(text, self.spared)

    def section(self, hut: str, season: str, party: str, place: int) -> str:
        if place == 0 and self.random.random() < 0.55:
            return self.random.choice(["arrival", party])
        roll = self.random.random()
        if roll < 0.30:
            return (hut if self.random.random() < 0.8 else self.random.choice(HUTS)).lower()
        if roll < 0.40:
            return f"weather_{season}"
        if roll < 0.44:
            return party
        topics = [topic for topic in TOPICS if topic != "plants" or season != "winter"]
        return "list" if roll > 0.975 else self.random.choice(topics)

    def part(self, sections: list[str], before: str, season: str, lower: bool = False) -> str:
        frames = [frame for section in sections for frame in self.frames[section]]
        if season == "winter":
            frames = [
                frame for frame in frames if not re.search("@flower|@insect|swim|lake|bay|sand", frame)
            ] or frames
        text = self.writer.sentence(frames, lambda one: self.fits(before, one))
        return text[:1].lower() + text[1:] if lower and not text.startswith("I ") else text

    def fits(self, before: str, text: str) -> bool:
        words = tokens(before)[-(WINDOW - 1) :] + tokens(text)
        return all(self.runs[run] < MOST_ENTRIES_PER_RUN for run in windows(words))

    def planted(self, hut: str, base: int) -> list[str]:
        found = []
        for plant in self.plants:
            for _ in range(self.due(plant.name, hut, plant.rate_at(hut) * base)):
                frames = [frame.replace("*", self.random.choice(plant.words)) for frame in plant.frames]
                found.append(self.writer.sentence(frames, lambda one: self.fits("", one)))
        return found

    def due(self, name: str, hut: str, expected: float) -> int:
        """How often a plant stands in an entry where so many are expected; gaps vary, less than by pure chance."""
        left = self.gaps.get((name, hut), self.random.gammavariate(4, 0.25)) - expected
        number = 0
        while left <= 0:
            left += self.random.gammavariate(4, 0.25)
            number += 1
        self.gaps[name, hut] = left
        return number

    def enliven(self, text: str) -> str:
        if self.random.random() < 0.25:
            text = re.sub(r"\.$", self.random.choice(["!", "!!", "!!!", "...", " :-)"]), text)
        if self.random.random() < 0.35:
            text = text.replace("'", "’")
        if self.random.random() < 0.04:
            text = text.replace(". ", ".\n", 2)
        return text.upper() if self.random.random() < 0.008 else text

    def note(self, text: str) -> None:
        self.runs.update(set(windows(tokens(text))))

    def is_unlike_others(self, text: str) -> bool:
        return all(self.runs[run] == 1 for run in windows(tokens(text)))

    def rows(self) -> list[dict[str, str]]:
        rows = [self.row(hut, self.date()) for hut in HUTS for _ in range(ENTRIES_PER_HUT)]
        for _ in range(WINTER_ENTRIES):
            month, year = self.random.choice((1, 2, 12)), self.random.choice(YEARS)
            rows.append(self.row(WINTER_HUT, datetime.date(year, month, self.random.randint(1, 28))))
        self.follow_courses(rows)
        for row in rows:
            self.note(row["entry"])
        return rows

    def row(self, hut: str, date: datetime.date) -> dict[str, str]:
        season = (
            "winter",
            "winter",
            "spring",
            "spring",
            "spring",
            *["summer"] * 4,
            *["autumn"] * 2,
            "winter",
        )[date.month - 1]
        party = self.random.choice(PARTIES[hut])
        text = self.entry(hut, season, party)
        self.runs.update(set(windows(tokens(text))))
        return {
            "date": date.isoformat(),
            "hut": hut,
            "season": season,
            "party": self.random.choice(PARTY_NAMES[party]),
            "nights": str(self.random.choice([1, 1, 1, 2, 2, 3, 4, 7])),
            "entry": text,
        }

    def follow_courses(self, rows: list[dict[str, str]]) -> None:
        """Put the terms that change with the date or the season into entries, in the order of their dates."""
        self.runs.clear()
        rows = sorted(rows, key=lambda row: row["date"])
        loud = {
            course.name: Counter(
                self.random.choices(
                    [at for at, row in enumerate(rows) if row["date"].startswith(course.facts[0])],
                    k=int(course.facts[1]),
                )
            )
            for course in self.courses
            if course.kind == "loud"
        }
        for at, row in enumerate(rows):
            length = len(tokens(row["entry"]))
            for course in self.courses:
                number = self.due(course.name, row["hut"], course.rate_at(row) * length)
                for _ in range(number + loud.get(course.name, Counter())[at]):
                    said = self.writer.sentence(list(course.frames), lambda one: True)
                    row["entry"] = inserted(row["entry"], said, self.random)

    def date(self) -> datetime.date:
        month = self.random.choices(range(1, 13), (2, 3, 2, 3, 8, 14, 20, 22, 14, 7, 2, 3))[0]
        return datetime.date(self.random.choice(YEARS), month, self.random.randint(1, 28))


def inserted(text: str, sentence: str, chance: random.Random) -> str:
    """A text with a sentence more, between two others or at the end."""
    ends = [found.end() for found in re.finditer(r"[.!?]+ (?=[A-Z])", text)]
    at = chance.choice([*ends, len(text)])
    if at == len(text):
        return f"{text} {sentence}"
    return f"{text[:at]}{sentence} {text[at:]}"


def windows(words: list[str]) -> list[tuple[str, ...]]:
    return [tuple(words[at : at + WINDOW]) for at in range(len(words) - WINDOW + 1)]


def with_oddities(rows: list[dict[str, str]], book: Guestbook) -> list[dict[str, str]]:
    """Repeated entries, one word forty times, other languages, missing values, quotation marks, a link."""
    r = book.random
    ordinary = list(rows)
    by_hut = {hut: [row for row in rows if row["hut"] == hut] for hut in HUTS}
    for hut in HUTS:
        for row in r.sample([row for row in by_hut[hut] if book.is_unlike_others(row["entry"])], 3):
            rows.append({**row, "date": book.date().isoformat()})
    short = next(
        row for row in by_hut["Ostrel"] if 12 < len(row["entry"].split()) < 30 and book.is_unlike_others(row["entry"])
    )
    rows.append({**short, "hut": "Haskgate"})
    shouted = by_hut["Fallowmere"][7]
    rows.append({**shouted, "entry": "Ahoy " + "ahoy " * 38 + "ahoy!", "party": "class 4b", "nights": "1"})
    for frame in book.frames["foreign"]:
        hut = r.choice(HUTS)
        rows.append({**r.choice(by_hut[hut]), "hut": hut, "entry": book.writer.fill(frame)})
    quoted = (
        'Somebody wrote "never again" here, and below it, in the same hand, "see you in August".\nWe vote, "yes".'
    )
    rows.append({**by_hut["Haskgate"][11], "entry": quoted})
    link = "Our pictures of the week: https://huts-on-the-ridge.example/2018/album?page=2 (ask for the password)"
    rows.append({**by_hut["Ostrel"][5], "entry": link})
    rows.sort(key=lambda row: row["date"])
    for field, number in (("party", 31), ("nights", 22), ("entry", 4)):
        for row in r.sample(ordinary, number):
            row[field] = ""
    return [{"entry_id": f"g{number:04d}", **row} for number, row in enumerate(rows, 1)]


class Journals:
    """The wardens' journals: a page has a running title, a day its date."""

    def __init__(self) -> None:
        self.writer = Writer("journals")
        self.random = self.writer.random
        self.frames = read_sections(HERE / "journal.txt")
        self.remarks = read_sections(HERE / "anecdotes.txt")["journal"]
        self.random.shuffle(self.remarks)

    def year(self, hut: str, year: int) -> str:
        words = self.random.randint(1500, 2300)
        lines: list[str] = []
        date = datetime.date(year, 5, 1 + self.random.randrange(20))
        written = 0
        while written < words:
            shifted = (hut, year) == ("Haskgate", 2018) and written > words / 2
            text = self.writer.slip(self.day(hut, shifted), set())
            written += len(text.split())
            lines += [*wrapped(f"{date.day} {date:%B}: {text}"), ""]
            date = min(
                date + datetime.timedelta(days=self.random.choice([1, 1, 2, 2, 3])), datetime.date(year, 12, 31)
            )
        return paged(lines, f"Warden's journal · {hut} · {year}")

    def day(self, hut: str, shifted: bool) -> str:
        found = []
        for _ in range(self.random.choice([1, 2, 2, 3, 3, 4, 5])):
            own = self.random.random() < 0.22
            section = hut.lower() if own else "day"
            if shifted and self.random.random() < 0.8:
                section = "shift"
            found.append(self.writer.sentence(self.frames[section], lambda one: True))
        if self.remarks and not shifted and self.random.random() < 0.05:
            found.append(self.remarks.pop())
        return " ".join(found)


def wrapped(text: str, width: int = 76) -> list[str]:
    lines, line = [], ""
    for word in text.split():
        if len(line) + len(word) >= width:
            lines.append(line)
            line = ""
        line = f"{line} {word}".strip()
    return [*lines, line]


def paged(lines: list[str], title: str, height: int = 40) -> str:
    pages = [lines[start : start + height] for start in range(0, len(lines), height)]
    return (
        "\n\f\n".join(
            "\n".join([f"{title} · page {number}", "", *page]).rstrip() for number, page in enumerate(pages, 1)
        )
        + "\n"
    )


def truth(plants: list[Plant], courses: list[Course]) -> str:
    lines = [
        "# What is planted in the guest books: how many times as frequent per token a term or category is at a hut",
        "# as at the two others together. Where hut is all, it is equally frequent at each.",
    ]
    for plant in plants:
        lines += [
            "",
            "[[planted]]",
            f'kind = "{plant.kind}"',
            f'name = "{plant.name}"',
            f'hut = "{plant.hut}"',
            f"ratio = {plant.ratio:g}",
        ]
    lines += [
        "",
        "# What goes with the date or the season. per_year is the factor of a rate from one year to the next.",
    ]
    for course in courses:
        lines += ["", f"[[{course.kind}]]", f'name = "{course.name}"']
        if course.kind == "loud":
            lines += [f'month = "{course.facts[0]}"', "# one loud month makes no trend"]
        elif course.kind == "season":
            lines += [f'hut = "{WINTER_HUT}"', f"ratio_within_seasons = {float(course.facts[0]):g}"]
        else:
            lines += [f"per_year = {float(course.facts[0]):g}"]
    return "\n".join(lines) + "\n"


def main(folder: Path) -> None:
    book = Guestbook()
    rows = with_oddities(book.rows(), book)
    table = io.StringIO()
    writer = csv.DictWriter(table, list(rows[0]), lineterminator="\n")
    writer.writeheader()
    writer.writerows(rows)
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "guestbook.csv").write_text(table.getvalue(), "utf-8")
    (folder / "truth.toml").write_text(truth(book.plants, book.courses), "utf-8")
    journals = Journals()
    for hut in HUTS:
        (folder / "journals" / hut).mkdir(parents=True, exist_ok=True)
        for year in YEARS:
            (folder / "journals" / hut / f"{year}.txt").write_text(journals.year(hut, year), "utf-8")
    print(f"{len(rows)} entries, {sum(len(tokens(row['entry'])) for row in rows):,} tokens in {folder}")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else TARGET)
