"""From the tags of each language's tagger to the universal ones (UPOS, universaldependencies.org)."""

from collections.abc import Mapping
from functools import cache

UNKNOWN = "X"

_ENGLISH = {
    "ADJ": "AJ0 AJC AJS ORD",
    "ADP": "IN PRF PRP",
    "ADV": "AV0 AVP AVQ",
    # have and do are auxiliaries where they are finite, which is so more often than not
    "AUX": "VBB VBD VBG VBI VBN VBZ VDB VDD VDZ VHB VHD VHZ VM0",
    "CCONJ": "CJC",
    "DET": "AT0 DT0 DTQ",
    "INTJ": "ITJ",
    "NOUN": "NN NN0 NN1 NN2",
    "NUM": "CRD",
    "PART": "POS TO0 XX0",
    "PRON": "DPS EX0 PNI PNP PNQ",
    "PROPN": "NP0",
    "PUNCT": "PUL PUN PUQ PUR",
    "SCONJ": "CJS CJT",
    "VERB": "VDG VDI VDN VHG VHI VHN VVB VVD VVG VVI VVN VVZ",
    "X": "!!! UNC ZZ0",
}
_GERMAN = {
    "ADJ": "ADJ(A) ADJ(D)",
    "ADP": "APPO APPR APPRART APZR KOKOM PTKVZ",
    "ADV": "ADV PROAV PWAV",
    "AUX": "VA(FIN) VA(IMP) VA(INF) VA(PP) VM(FIN) VM(INF) VM(PP)",
    "CCONJ": "KON",
    "DET": "ART PDAT PIAT PPOSAT PRELAT PWAT",
    "INTJ": "ITJ",
    "NOUN": "NN NNA NNI",
    "NUM": "CARD",
    "PART": "PTKA PTKANT PTKNEG PTKZU",
    "PRON": "PDS PIS PPER PPOSS PRELS PRF PWS",
    "PROPN": "NE",
    "PUNCT": "$( $, $.",
    "SCONJ": "KOUI KOUS",
    "VERB": "VV(FIN) VV(IMP) VV(INF) VV(IZU) VV(PP)",
    "X": "FM TRUNC XY",
}
# a Dutch tag has many features: what it begins with decides, the first row that fits
_DUTCH = (
    ("ADJ(", "ADJ"),
    ("BW(", "ADV"),
    ("LET(", "PUNCT"),
    ("LID(", "DET"),
    ("N(eigen", "PROPN"),
    ("N(soort", "NOUN"),
    ("SPEC(symb", "SYM"),
    ("SPEC(", "X"),
    ("TSW(", "INTJ"),
    ("TW(rang", "ADJ"),
    ("TW(", "NUM"),
    ("VG(neven", "CCONJ"),
    ("VG(onder", "SCONJ"),
    ("VNW(aanw,adv", "ADV"),
    ("VNW(onbep,adv", "ADV"),
    ("VNW(vb,adv", "ADV"),
    ("VNW(aanw,det", "DET"),
    ("VNW(onbep,det", "DET"),
    ("VNW(onbep,grad", "DET"),
    ("VNW(vb,det", "DET"),
    ("VNW(", "PRON"),
    ("VZ(", "ADP"),
    ("WW(", "VERB"),
)
_DUTCH_AUXILIARIES = frozenset(("hebben", "kunnen", "moeten", "mogen", "worden", "zijn", "zullen"))


@cache
def _table(language: str) -> Mapping[str, str]:
    by_tag = {"en": _ENGLISH, "de": _GERMAN}[language]
    return {tag: universal for universal, tags in by_tag.items() for tag in tags.split()}


def universal_tag(language: str, tag: str, lemma: str = "") -> str:
    """The universal part of speech of a tag; X for one that is not known.

    Parameters
    ----------
    language : str
        ``en`` (tags of the C5 set), ``de`` (STTS) or ``nl`` (D-Coi).
    tag : str
        As the tagger gives it.
    lemma : str
        Which distinguishes auxiliaries from other verbs in Dutch, whose tags do not.

    Examples
    --------
    >>> universal_tag("en", "NN1"), universal_tag("de", "VV(FIN)"), universal_tag("nl", "WW(pv,verl,ev)", "zijn")
    ('NOUN', 'VERB', 'AUX')
    """
    if language != "nl":
        return _table(language).get(tag, UNKNOWN)
    found = next((universal for begin, universal in _DUTCH if tag.startswith(begin)), UNKNOWN)
    return "AUX" if found == "VERB" and lemma in _DUTCH_AUXILIARIES else found
