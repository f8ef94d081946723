"""The first hour: a craft and its battery told in a sentence with gaps, and the documents that it stands for."""

from wise_cellar.core.begin.beginning import GAPS, Arranged, Beginning, Carried
from wise_cellar.core.begin.cells import cell_type_of
from wise_cellar.core.begin.classes import USUAL, UsualCraft
from wise_cellar.core.begin.description import Chemistry, Description
from wise_cellar.core.begin.making import Begun, cell_name, make, offered
from wise_cellar.core.begin.missions import Purpose
from wise_cellar.core.begin.narrowing import Narrowed, narrowing
from wise_cellar.core.begin.reading import read_description

__all__ = [
    "GAPS",
    "USUAL",
    "Arranged",
    "Beginning",
    "Begun",
    "Carried",
    "Chemistry",
    "Description",
    "Narrowed",
    "Purpose",
    "UsualCraft",
    "cell_name",
    "cell_type_of",
    "make",
    "narrowing",
    "offered",
    "read_description",
]
