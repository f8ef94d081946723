"""What people write down: frozen, validated values in people's units that round-trip through JSON."""

from wise_cellar.core.documents.base import Document, DocumentError, FieldInfo, field_info, replaced, value_at
from wise_cellar.core.documents.cell_model import CurveResidual, FittedModel, OcvTable
from wise_cellar.core.documents.cell_table import CellTable, cell_types_from_csv, cell_types_to_csv
from wise_cellar.core.documents.cell_type import AC_SHARE_OF_DCIR, CellType, FormFactor, KineticClass, OcvFamily
from wise_cellar.core.documents.conditions import Conditions, Cooling
from wise_cellar.core.documents.craft import Balance, Bay, Craft, Esc, KeepOut, KnownFlight, Load, Motor, Part, Rotors
from wise_cellar.core.documents.curves import ChargeUnit, ChartAxis, DischargeRecord, TracedChart, TracedCurve
from wise_cellar.core.documents.design import CompleteDesign, Design
from wise_cellar.core.documents.exchange import ExchangeFile, export_text, import_text, json_schema
from wise_cellar.core.documents.mission import Block, BlockKind, LandingPolicy, LandingRule, Mission
from wise_cellar.core.documents.new_cell import blank_cell_type, with_form
from wise_cellar.core.documents.pack_recipe import (
    Arrangement,
    BalanceLead,
    ConnectorClass,
    Fittings,
    Joint,
    LeadExit,
    Leads,
    NodeLayers,
    OwnPlace,
    PackRecipe,
    Spacer,
    Strip,
    StripMetal,
    Underlay,
)
from wise_cellar.core.documents.provenance import BenchResult, SourceKind, ValueSource

__all__ = [
    "AC_SHARE_OF_DCIR",
    "Arrangement",
    "Balance",
    "BalanceLead",
    "Bay",
    "BenchResult",
    "Block",
    "BlockKind",
    "CellTable",
    "CellType",
    "ChargeUnit",
    "ChartAxis",
    "CompleteDesign",
    "Conditions",
    "ConnectorClass",
    "Cooling",
    "Craft",
    "CurveResidual",
    "Design",
    "DischargeRecord",
    "Document",
    "DocumentError",
    "Esc",
    "ExchangeFile",
    "FieldInfo",
    "FittedModel",
    "Fittings",
    "FormFactor",
    "Joint",
    "KeepOut",
    "KineticClass",
    "KnownFlight",
    "LandingPolicy",
    "LandingRule",
    "LeadExit",
    "Leads",
    "Load",
    "Mission",
    "Motor",
    "NodeLayers",
    "OcvFamily",
    "OcvTable",
    "OwnPlace",
    "PackRecipe",
    "Part",
    "Rotors",
    "SourceKind",
    "Spacer",
    "Strip",
    "StripMetal",
    "TracedChart",
    "TracedCurve",
    "Underlay",
    "ValueSource",
    "blank_cell_type",
    "cell_types_from_csv",
    "cell_types_to_csv",
    "export_text",
    "field_info",
    "import_text",
    "json_schema",
    "replaced",
    "value_at",
    "with_form",
]
