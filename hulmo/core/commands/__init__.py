"""Every change to a project, as a small serialisable command. To add one: write its file, add one line to `COMMANDS`."""

from hulmo.core.commands.add_body import AddBody
from hulmo.core.commands.bank_up import BankUp, SinkRim
from hulmo.core.commands.bodies import (
    ChangeBody,
    DuplicateBody,
    JoinBodies,
    MirrorBody,
    PlaceBody,
    SplitBody,
)
from hulmo.core.commands.by_hand import EvenChosen, JitterChosen
from hulmo.core.commands.change_strewn import ChangeStrewn
from hulmo.core.commands.choose import Choose, MarkVertices, SetWeight
from hulmo.core.commands.choose_parts import ChooseParts, KeepChoice
from hulmo.core.commands.combine import Bore, Combine
from hulmo.core.commands.command import Command
from hulmo.core.commands.copy_weights import CopyWeights
from hulmo.core.commands.cure import Cure
from hulmo.core.commands.cure_props import CureProps
from hulmo.core.commands.cut import CutLevels, Thicken
from hulmo.core.commands.down import SetDown
from hulmo.core.commands.edges import CollapseChosen, PlantVertex, SplitChosen, TurnEdges
from hulmo.core.commands.extrude import Cap, Extrude, Inset
from hulmo.core.commands.face_marks import LayOnFaces, SetCrease, SetFacets
from hulmo.core.commands.fill import Fill
from hulmo.core.commands.fit_to_views import FitToViews
from hulmo.core.commands.ground_files import ReloadTexture
from hulmo.core.commands.grounds import AddGround, ChangeGround, RemoveGround
from hulmo.core.commands.guard import ChangeGuard, GuardFrom
from hulmo.core.commands.holes import BridgeChosen, DeleteChosen, ExtendBorder, FillChosen
from hulmo.core.commands.import_body import ImportBody
from hulmo.core.commands.lay_around import LayAround
from hulmo.core.commands.lay_images import LayImages
from hulmo.core.commands.layers import (
    AddLayer,
    ChangeLayer,
    ClearLayer,
    DuplicateLayer,
    FlattenLayers,
    MergeLayer,
    MoveLayer,
    RemoveLayer,
)
from hulmo.core.commands.lines import AddLine, ChangeLine, LinePoint
from hulmo.core.commands.lock_border import LockBorder
from hulmo.core.commands.move_chosen import MoveChosen
from hulmo.core.commands.objects import AddObject, ChangeObject, MoveObject, RemoveObject
from hulmo.core.commands.palette import DuplicateGround, MergeGrounds, MoveGround, SwapGrounds
from hulmo.core.commands.relief import LayRelief, RelayRelief
from hulmo.core.commands.remesh import EvenOut, FillBorders, FlipFaces, Recast, Reduce, Weld
from hulmo.core.commands.remove_body import RemoveBody
from hulmo.core.commands.reset_coat import ResetCoat
from hulmo.core.commands.rules import LayRules, MeasureRules, SetRules, UseRules
from hulmo.core.commands.scene import PlaceFigure, SetBlend, SetLight, SetName, SetViewpoint
from hulmo.core.commands.sky import SetSky, SunFromSky
from hulmo.core.commands.stand_body import StandBody
from hulmo.core.commands.stitch import StitchBorders, UnstitchBorders
from hulmo.core.commands.strew import Strew
from hulmo.core.commands.strew_rules import LayProps, SetStrewRules
from hulmo.core.commands.stroke import LiveStroke, Stroke
from hulmo.core.commands.subdivide import Subdivide
from hulmo.core.commands.tray import AddProp, ChangeProp, RemoveProp
from hulmo.core.commands.uv import ChangeUv, LayUv, PackUv, RemoveUv, UnwrapUv
from hulmo.core.commands.uv_rows import StackUv, StraightenUv, TurnBackUv
from hulmo.core.commands.uv_seams import MarkSeams, RelaxUv, UnwrapAlongSeams
from hulmo.core.commands.waive import Waive
from hulmo.core.commands.water import AddWater

COMMANDS: tuple[type[Command], ...] = (
    AddBody,
    ImportBody,
    RemoveBody,
    ChangeBody,
    PlaceBody,
    StandBody,
    DuplicateBody,
    MirrorBody,
    JoinBodies,
    SplitBody,
    LockBorder,
    StitchBorders,
    UnstitchBorders,
    Stroke,
    ResetCoat,
    AddLayer,
    ChangeLayer,
    MoveLayer,
    DuplicateLayer,
    MergeLayer,
    ClearLayer,
    RemoveLayer,
    FlattenLayers,
    LayRelief,
    RelayRelief,
    ChangeGuard,
    GuardFrom,
    Fill,
    AddGround,
    ChangeGround,
    RemoveGround,
    DuplicateGround,
    MoveGround,
    SwapGrounds,
    MergeGrounds,
    ReloadTexture,
    CopyWeights,
    LayImages,
    SetRules,
    LayRules,
    MeasureRules,
    UseRules,
    Choose,
    MarkVertices,
    SetWeight,
    Subdivide,
    Reduce,
    Recast,
    EvenOut,
    Weld,
    FillBorders,
    FlipFaces,
    Combine,
    Cure,
    Bore,
    SetBlend,
    SetLight,
    SetViewpoint,
    PlaceFigure,
    ChooseParts,
    KeepChoice,
    MoveChosen,
    JitterChosen,
    EvenChosen,
    SetFacets,
    LayOnFaces,
    SetCrease,
    Extrude,
    Inset,
    Cap,
    DeleteChosen,
    ExtendBorder,
    FillChosen,
    BridgeChosen,
    SplitChosen,
    PlantVertex,
    CollapseChosen,
    TurnEdges,
    CutLevels,
    Thicken,
    SetDown,
    AddObject,
    ChangeObject,
    RemoveObject,
    MoveObject,
    AddWater,
    AddProp,
    ChangeProp,
    RemoveProp,
    Strew,
    ChangeStrewn,
    SetStrewRules,
    LayProps,
    CureProps,
    BankUp,
    SinkRim,
    LayAround,
    FitToViews,
    SetSky,
    SunFromSky,
    LayUv,
    UnwrapUv,
    ChangeUv,
    PackUv,
    RemoveUv,
    MarkSeams,
    UnwrapAlongSeams,
    RelaxUv,
    StraightenUv,
    StackUv,
    TurnBackUv,
    AddLine,
    ChangeLine,
    SetName,
    Waive,
)

__all__ = ["COMMANDS", "Command", "LinePoint", "LiveStroke", *(command.__name__ for command in COMMANDS)]
