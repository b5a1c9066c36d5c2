"""The cards on the right, from top to bottom. To add one: write its file, add one line here; it knows when it is seen."""

from hulmo.app.cards.bake_card import BakeCard
from hulmo.app.cards.body_card import BodyCard
from hulmo.app.cards.bore_card import BoreCard
from hulmo.app.cards.brush_card import BrushCard
from hulmo.app.cards.card import Card
from hulmo.app.cards.care_card import CareCard
from hulmo.app.cards.deliver_card import DeliverCard
from hulmo.app.cards.density_card import DensityCard
from hulmo.app.cards.export_card import ExportCard
from hulmo.app.cards.fill_card import FillCard
from hulmo.app.cards.fog_card import FogCard
from hulmo.app.cards.form_card import FormCard
from hulmo.app.cards.ground_card import GroundCard
from hulmo.app.cards.guard_card import GuardCard
from hulmo.app.cards.hand_card import HandCard
from hulmo.app.cards.hour_card import HourCard
from hulmo.app.cards.inside_card import InsideCard
from hulmo.app.cards.layer_card import LayerCard
from hulmo.app.cards.light_card import LightCard
from hulmo.app.cards.line_card import LineCard
from hulmo.app.cards.look_card import LookCard
from hulmo.app.cards.object_card import ObjectCard
from hulmo.app.cards.operation_card import OperationCard
from hulmo.app.cards.paint_card import PaintCard
from hulmo.app.cards.prop_card import PropCard
from hulmo.app.cards.prop_care_card import PropCareCard
from hulmo.app.cards.relief_card import ReliefCard
from hulmo.app.cards.rule_card import RuleCard
from hulmo.app.cards.sky_card import SkyCard
from hulmo.app.cards.still_card import StillCard
from hulmo.app.cards.strew_card import StrewCard
from hulmo.app.cards.strew_rule_card import StrewRuleCard
from hulmo.app.cards.tray_card import TrayCard
from hulmo.app.cards.uv_card import UvCard
from hulmo.app.cards.vertex_card import VertexCard
from hulmo.app.cards.walk_card import WalkCard
from hulmo.app.cards.water_card import WaterCard

CARDS: tuple[type[Card], ...] = (
    FormCard,
    HandCard,
    LineCard,
    WaterCard,
    TrayCard,
    StrewCard,
    StrewRuleCard,
    PropCard,
    PropCareCard,
    OperationCard,
    CareCard,
    BoreCard,
    BodyCard,
    BrushCard,
    ReliefCard,
    GuardCard,
    LayerCard,
    FillCard,
    RuleCard,
    VertexCard,
    PaintCard,
    LookCard,
    GroundCard,
    WalkCard,
    LightCard,
    HourCard,
    FogCard,
    SkyCard,
    ObjectCard,
    DensityCard,
    StillCard,
    DeliverCard,
    BakeCard,
    UvCard,
    ExportCard,
    InsideCard,
)
