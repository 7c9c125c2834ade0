"""What brings people to a machine: a symptom, its causes, and the check to make first."""

from truing.symptoms.data import Symptom, symptom, symptoms
from truing.symptoms.drawn import SymptomFigure, drawn
from truing.symptoms.search import NextCheck, Search, Suspect, search, suiting

__all__ = [
    "NextCheck",
    "Search",
    "Suspect",
    "Symptom",
    "SymptomFigure",
    "drawn",
    "search",
    "suiting",
    "symptom",
    "symptoms",
]
