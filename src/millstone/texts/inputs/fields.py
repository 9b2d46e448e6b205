"""Fields of documents: from paths, a joined table and rules; their groups; whether they are kept."""

from operator import ne
from pathlib import Path
from typing import TypeVar

from millstone.core.base.errors import DataError
from millstone.core.base.patterns import pattern
from millstone.core.base.wording import NAMED, listed, nearest, nearest_names, numbered
from millstone.core.corpus.corpus import Document
from millstone.core.corpus.documents import DocumentBlock
from millstone.core.settings.conditions import condition_from
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.field_audit import FieldAudit
from millstone.texts.inputs.files import watched
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import column_of, open_table

T = TypeVar("T")
RESERVED = frozenset(("document", "group", "part_of", "part", "position"))
_KEY_NAMES = ("document", "file", "filename", "file_name", "path", "name", "id")


OF_PARTS = ("part", "part_of", "position")
"""Fields that documents have when they are cut into parts."""
_OWN = ("document",)


class FieldAssigner:
    """Gives documents their fields and groups, and drops those that a condition excludes; `met` is what it met."""

    def __init__(self, reading: InputOptions, provenance: Provenance) -> None:
        self.met = FieldAudit()
        self._reading = reading
        self._provenance = provenance
        self._pattern = pattern("--path-pattern", reading.path_pattern) if reading.path_pattern else None
        self._rules = reading.rules_of_fields
        conditions = map(condition_from, reading.where)
        self._conditions = [one for one in conditions if one.field not in OF_PARTS or reading.unit.kind == "whole"]
        self._joined = _Joined(reading, provenance, self.met) if reading.metadata else None
        for typed in reading.where:
            if "==" in typed and not condition_from(typed).value.startswith("="):
                provenance.note(f"--where {typed!r}: == is read as =")

    def described(self, document: Document, inside: str, group: str, named: bool) -> Document | None:
        """The document with its fields and group filled in, None when it is left out.

        Parameters
        ----------
        document : Document
        inside : str
            Its path within the input.
        group : str
            Its group unless a field makes the groups.
        named : bool
            The group was given by hand and wins.

        Raises
        ------
        DataError
            When its group is empty or its field does not exist.
        """
        fields = dict(document.metadata)
        if self._pattern and (found := self._pattern.search(inside, inside)):
            self.met.patterned += 1
            fields |= {name: value or "" for name, value in found.groupdict().items()}
        if self._joined:
            fields |= self._joined.fields_of(document.name, inside, fields)
        field = self._group_field(named)
        own: dict[str, str] = {}
        if self._rules or self._conditions or field in _OWN:
            folder = _folder_of(inside, document.source)
            own = {"document": document.name, "file": inside, "folder": folder, self._reading.id: document.name}
        for rule in self._rules:
            if rule.source in fields or rule.source in own:
                fields[rule.name] = rule.value_for({**own, **fields}[rule.source])
        if not fields.keys() <= self.met.fields.keys():
            self.met.fields |= dict.fromkeys(fields)
        if self._conditions:
            own["group"] = {**own, **fields}.get(field, "") if field else group
            if not self._kept_by_conditions({**own, **fields}):
                self._provenance.filtered += 1
                return None
        if field in _OWN and field not in fields:
            group = own[field]
        elif field:
            group = self._group(document, fields, field)
            fields.pop(field)
        self.met.kept += 1
        # filled in, not made anew: this is done for each of millions of rows
        document.group, document.metadata = group, self._renamed(fields)
        return document

    def described_block(self, block: DocumentBlock, group: str, named: bool) -> DocumentBlock | None:
        """Assign fields to many rows of a table; None where they have to be looked at one by one."""
        if self._pattern or self._joined or self._rules or self._conditions:
            return None
        fields = dict(block.fields)
        field = self._group_field(named)
        groups = [group] * len(block.names)
        padded = 0
        if field:
            if field not in fields:
                return None
            groups = list(map(str.strip, fields[field]))
            if not all(groups):
                return None
            padded = sum(map(ne, groups, fields.pop(field)))
        # the fields count as seen in their order, that of the groups too
        self.met.fields |= dict.fromkeys(block.fields)
        self.met.padded += padded
        self.met.kept += len(groups)
        block.groups, block.fields = groups, self._renamed(fields)
        return block

    def _group_field(self, named: bool) -> str:
        """The field that makes the groups, if one does."""
        by_source = self._reading.group in ("", "folder", "file") or self._reading.groups_are_parts
        return "" if by_source or named else self._reading.group

    def _kept_by_conditions(self, fields: dict[str, str]) -> bool:
        kept = True
        for condition in self._conditions:
            holds = condition.holds(fields)
            if holds is None:
                self.met.incomparable.setdefault(condition, []).append(fields[condition.field])
            self.met.value(condition.field, fields.get(condition.field, ""))
            kept = kept and bool(holds)
        return kept

    def _group(self, document: Document, fields: dict[str, str], field: str) -> str:
        if field not in fields:
            known = f"{nearest(field, fields)} (it has {nearest_names(field, fields) or 'none'})"
            remedy = (
                "name one of them with --group, type --group folder or --group file, or name groups with NAME=PATH"
            )
            if field == "part":
                remedy = "texts have parts when they are cut: type --unit parts:10 as well"
            raise DataError(
                f"{document.source.partition(', row ')[0]} has no column or field {field!r}{known}", remedy
            )
        group = fields[field].strip()
        if group != fields[field]:
            self.met.padded += 1
        if not group:
            raise DataError(
                f"{document.source}: the group column {field!r} is empty",
                f"fill it in, or leave such documents out with --where \"{field} != ''\"",
            )
        return group

    def _values_seen(self) -> str:
        """The values that the fields of the conditions have."""
        noted = [f"{field} is {listed(values)}" for field, values in self.met.values.items() if values]
        return "; ".join(noted) or "none of the documents has a value there"

    def _renamed(self, fields: dict[str, T]) -> dict[str, T]:
        if RESERVED.isdisjoint(fields):
            return fields
        for name in sorted(fields.keys() & RESERVED):
            self._provenance.note(f"the column {name!r} was renamed to {name + '_given'!r}")
        return {f"{name}_given" if name in RESERVED else name: value for name, value in fields.items()}

    def finish(self) -> None:
        """Check, when all documents were seen, that what was asked for was there.

        Raises
        ------
        DataError
        """
        known = (*self.met.fields, "document", "file", "folder", "group", self._reading.id)
        for condition in self._conditions:
            if condition.field not in known:
                raise DataError(
                    f"--where {condition}: no document has a field {condition.field!r}"
                    f"{nearest(condition.field, self.met.fields)}",
                    f"the fields are {nearest_names(condition.field, known[:-1])}",
                )
        for rule in self._rules:
            if rule.name not in self.met.fields:
                raise DataError(
                    f"the field {rule.name!r} is made from {rule.source!r}, which no document has",
                    f"the fields are {nearest_names(rule.source, [*self.met.fields, 'document', 'file'])}",
                )
        if self._pattern and not self.met.patterned:
            raise DataError(
                f"--path-pattern {self._reading.path_pattern}: no path of the input fits it",
                "a path is searched as it stands within its input, with / between folders",
            )
        if self._provenance.filtered and not self.met.kept:
            raise DataError(
                f"--where leaves no document of {numbered(self._provenance.filtered, 'document')}",
                f"loosen the condition: {self._values_seen()}",
            )
        for condition, found in self.met.incomparable.items():
            provenance, number = self._provenance, numbered(len(found), "document")
            provenance.note(
                f"--where {condition}: left out {number} whose {condition.field} is not a {condition.kind}, "
                f"such as {found[0]!r}"
            )
        if self._joined:
            self._joined.finish()
        if self.met.padded:
            self._provenance.note(
                f"blanks at the ends of {self._reading.group!r} in {numbered(self.met.padded, 'document')} left out"
            )


def _folder(inside: str) -> str:
    return inside.rpartition("/")[0]


class _Joined:
    """The rows of a table, found by the name of a document."""

    def __init__(self, reading: InputOptions, provenance: Provenance, met: FieldAudit) -> None:
        path = Path(reading.metadata)
        self._met = met
        self._provenance = provenance
        self._name = path.name
        with watched(path, provenance):
            table = open_table(path, reading, provenance)
            if reading.id:
                key = column_of(table, reading.id, "id")
            else:
                lower = {name.lower(): name for name in table.header}
                key = next((lower[name] for name in _KEY_NAMES if name in lower), table.header[0])
            self._rows: dict[str, dict[str, str]] = {}
            for number, cells in table.rows:
                value = cells.get(key, "").strip()
                if value in self._rows:
                    raise DataError(
                        f"{path}, row {number}: {value!r} is in the column {key!r} twice",
                        "give each document one row",
                    )
                self._rows[value] = {name: cells.get(name, "") for name in table.header if name != key}
        self._key = key
        self._columns = [name for name in table.header if name != key]

    def fields_of(self, name: str, inside: str, own: dict[str, str]) -> dict[str, str]:
        path = Path(inside)
        for key in (name, inside, path.name, str(path.with_suffix("")), path.stem):
            if key in self._rows:
                self._met.joined.setdefault(key, []).append(inside)
                found = self._rows[key]
                break
        else:
            self._met.without.append(name)
            found = dict.fromkeys(self._columns, "")
        for field in found:
            if field in own:
                self._provenance.note(f"{field!r} of {self._name} was renamed to {field + '_joined'!r}")
        return {f"{field}_joined" if field in own else field: value for field, value in found.items()}

    def finish(self) -> None:
        if not self._met.joined:
            first = next(iter(self._rows), "")
            raise DataError(
                f"{self._name}: its column {self._key!r} names no document (first row: {first!r})",
                "name the column that holds the documents' names with --id, or write file names into it",
            )
        shared = {key: files for key, files in self._met.joined.items() if len({*map(_folder, files)}) > 1}
        for key, files in list(shared.items())[:NAMED]:
            self._provenance.note(
                f"the row {key!r} of {self._name} joins files of several folders: {listed(files)}; "
                "write their paths into the table to distinguish them"
            )
        if len(shared) > NAMED:
            self._provenance.note(f"{len(shared) - NAMED} more rows of {self._name} join files of several folders")
        unused = [key for key in self._rows if key not in self._met.joined]
        for names, what in ((self._met.without, "document"), (unused, "row")):
            if names:
                other = f"row in {self._name}" if what == "document" else "document"
                verb = "has" if len(names) == 1 else "have"
                shown = listed(names, 3)
                self._provenance.note(
                    f"{numbered(len(names), what)} of {self._name if what == 'row' else 'the texts'} "
                    f"{verb} no {other}: {shown}"
                )


def _folder_of(inside: str, source: str) -> str:
    """The name of the folder that a file lies in."""
    folder = Path(inside).parent.name
    return folder or Path(source.partition(", row ")[0]).absolute().parent.name
