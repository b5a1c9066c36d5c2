"""The reading: what lies under the pointer, how large the project is, what a long job is doing."""

import math

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QWidget

from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.core.counted import counted
from hulmo.core.edit import Change
from hulmo.core.mesh.corner_table import TRIANGLES
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.mesh.thin import thin_share
from hulmo.core.reading import read_point

WIDE = 1200
"""Pixels from which there is room to say where a point lies."""

THIN_AT_MOST = 400_000
"""Triangles up to which the share of thin ones is counted while the hand rests."""


class Reading(QWidget):
    """Bottom of the window."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("reading")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(30)
        self._session = session
        self._under = Label()
        self._under.setObjectName("under")
        self._under.setAccessibleName("Under the pointer")
        self._counts = Label()
        self._counts.setAccessibleName("Counts")
        self._job = Label()
        self._bar = QProgressBar()
        self._bar.setRange(0, 1000)
        self._bar.setTextVisible(False)
        self._bar.setFixedWidth(130)
        self.stop = QPushButton("Stop")
        self.stop.setStyleSheet("padding: 1px 8px;")
        self.stop.setToolTip("End the present work; nothing is lost")
        self.stop.clicked.connect(self._stop)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 10, 0)
        row.addWidget(self._under, 1)
        row.addWidget(self._job)
        row.addWidget(self._bar)
        row.addWidget(self.stop)
        row.addSpacing(8)
        row.addWidget(self._counts)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(1200)
        self._later.timeout.connect(self._count)
        session.changed.connect(self._changed)
        session.replaced.connect(lambda: self._show_counts())
        session.settings_changed.connect(self._later.start)
        session.job_changed.connect(self._show_job)
        self._show_job()
        self._later.start()

    @property
    def under(self) -> str:
        """What is said of the point under the pointer."""
        return self._under.text()

    def point(self, hit: SurfacePoint | None) -> None:
        """Say what lies at a surface point."""
        body = self._session.body
        if hit is None or body is None:
            self._under.setText("")
            return
        here = read_point(body, hit, [ground.name for ground in self._session.project.grounds])
        shares = ", ".join(f"{name} {round(100 * share)} %" for name, share in here.shares[:3])
        bend = "flat" if math.isinf(here.bend) else f"{'ridge' if here.bend > 0 else 'hollow'} r {abs(here.bend):.3g} m"
        east, north = float(hit.position[0]), -float(hit.position[2])
        place = f"north {north:.1f} m   east {east:.1f} m   " if self.width() >= WIDE else ""
        self._under.setText(
            f"{place}height {here.height:.2f} m   slope {here.slope:.0f}°   {bend}   edge {here.edge:.2g} m   {shares}"
        )

    def _changed(self, change: Change) -> None:
        if change.bodies or "bodies" in change.fields or any(column == TRIANGLES for _, column, _ in change.rows):
            self._show_counts()
        self._later.start()

    def _count(self) -> None:
        if self._session.history.stroking or self._session.busy:
            self._later.start()
            return
        self._show_counts(thin_too=True)

    def _show_counts(self, thin_too: bool = False) -> None:
        bodies = self._session.project.bodies
        if not thin_too:
            self._later.start()
        if not bodies:
            self._counts.setText("no body yet")
            return
        vertices = sum(body.vertices.live_count for body in bodies)
        triangles = sum(body.corners.live_count for body in bodies)
        memory = sum(body.nbytes for body in bodies) + self._session.history.nbytes
        thin = ""
        if thin_too and triangles <= THIN_AT_MOST:
            share = sum(thin_share(body) * body.corners.live_count for body in bodies) / triangles
            thin = f"   {100 * share:.1f} % thin"
        self._counts.setText(
            f"{counted(vertices, 'vertex', 'vertices')}   {counted(triangles, 'triangle')}{thin}   {memory / 1e6:,.0f} MB"
        )
        self._counts.setToolTip("Thin: triangles whose smallest angle is under 10°. Memory: bodies and undo.")

    def _show_job(self) -> None:
        job = self._session.job
        for widget in (self._job, self._bar, self.stop):
            widget.setVisible(job is not None)
        if job is None:
            self._later.start()
            return
        self._job.setText(job.text)
        self._bar.setValue(round(1000 * job.share))

    def _stop(self) -> None:
        if self._session.job is not None:
            self._session.job.cancel()
