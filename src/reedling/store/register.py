"""Sites and assets."""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from reedling.core.logic.conditions import Answer
from reedling.core.register.assets import Asset, MeterState, PlacedAsset, Site
from reedling.core.register.plates import assets_with_plate, plate_key
from reedling.store.row_mapping import row_mapping
from reedling.store.rows import MOST_NAMED
from reedling.store.tables import AssetRow, MeterReadingRow, SiteRow


def _placed(row: AssetRow, site: SiteRow) -> PlacedAsset:
    return PlacedAsset(asset=ASSETS.read(row), site=SITES.read(site))


SITES = row_mapping(Site, SiteRow, code="id")
ASSETS = row_mapping(Asset, AssetRow, code="id")
METERS = row_mapping(MeterState, MeterReadingRow)


@dataclass(frozen=True, slots=True)
class Register:
    """Repository of sites and assets."""

    session: Session

    def put_site(self, site: Site, *, replaces: str | None = None) -> None:
        """Write a site in place of the one with this identity, or add it."""
        row = SiteRow() if replaces is None else self.session.get(SiteRow, replaces)
        assert row is not None
        SITES.write(site, row)
        self.session.add(row)
        self.session.flush()

    def put_asset(self, asset: Asset, *, replaces: str | None = None) -> None:
        """Write an asset, at a site that is there, in place of the one with this identity, or add it."""
        row = AssetRow() if replaces is None else self.session.get(AssetRow, replaces)
        assert row is not None
        ASSETS.write(asset, row)
        self.session.add(row)
        self.session.flush()

    def remove_site(self, site_id: str) -> None:
        """Take out a site that has no assets."""
        self.session.execute(delete(SiteRow).where(SiteRow.id == site_id))

    def remove_asset(self, asset_id: str) -> None:
        """Take out an asset that has no orders."""
        self.session.execute(delete(AssetRow).where(AssetRow.id == asset_id))

    def sites(self) -> tuple[Site, ...]:
        """All sites, by name."""
        return tuple(SITES.read(row) for row in self.session.scalars(select(SiteRow).order_by(SiteRow.name)))

    def asset(self, asset_id: str) -> PlacedAsset | None:
        """The asset with its site, if there is one."""
        row = self.session.get(AssetRow, asset_id)
        if row is None:
            return None
        site = self.session.get(SiteRow, row.site_id)
        assert site is not None
        return _placed(row, site)

    def assets(self) -> tuple[PlacedAsset, ...]:
        """All assets with their sites, by site and name."""
        query = select(AssetRow, SiteRow).join(SiteRow, AssetRow.site_id == SiteRow.id)
        rows = self.session.execute(query.order_by(SiteRow.name, AssetRow.name)).all()
        return tuple(_placed(row, site) for row, site in rows)

    def with_serial(self, serial: str) -> tuple[PlacedAsset, ...]:
        """The assets whose plate carries this serial, as :func:`assets_with_plate` has it."""
        query = select(AssetRow, SiteRow).join(SiteRow, AssetRow.site_id == SiteRow.id)
        query = query.where(func.lower(func.trim(AssetRow.serial)) == plate_key(serial))
        rows = self.session.execute(query).all()
        return assets_with_plate(serial, (_placed(row, site) for row, site in rows))

    def assets_of(self, identities: Set[str]) -> Mapping[str, PlacedAsset]:
        """These assets with their sites, by identity."""
        query = select(AssetRow, SiteRow).join(SiteRow, AssetRow.site_id == SiteRow.id)
        if len(identities) <= MOST_NAMED:
            query = query.where(AssetRow.id.in_(identities))
        return {row.id: _placed(row, site) for row, site in self.session.execute(query)}

    def set_fields(self, asset_id: str, fields: Mapping[str, Answer]) -> None:
        """Write fields of an asset that is there; the others stay."""
        row = self.session.get(AssetRow, asset_id)
        assert row is not None
        row.fields = {**row.fields, **fields}
        self.session.flush()

    def set_serial(self, asset_id: str, serial: str) -> None:
        """Write the serial of an asset that is there."""
        row = self.session.get(AssetRow, asset_id)
        assert row is not None
        row.serial = serial
        self.session.flush()

    def add_meter_reading(self, state: MeterState) -> None:
        """Keep the state of a meter."""
        self.session.add(METERS.new_row(state))
        self.session.flush()

    def all_meters(self) -> Mapping[str, tuple[MeterState, ...]]:
        """Every state of every meter, by asset, oldest first."""
        out: dict[str, list[MeterState]] = {}
        for row in self.session.scalars(select(MeterReadingRow).order_by(MeterReadingRow.at)):
            state = METERS.read(row)
            out.setdefault(row.asset_id, []).append(state)
        return {asset: tuple(states) for asset, states in out.items()}

    def last_reading(self) -> int:
        """A mark that rises with every state of a meter that is kept."""
        return self.session.scalar(select(func.max(MeterReadingRow.id))) or 0

    def meters(self, asset_id: str) -> Mapping[str, MeterState]:
        """The last state of each of an asset's meters."""
        query = (
            select(MeterReadingRow)
            .where(MeterReadingRow.asset_id == asset_id)
            .order_by(MeterReadingRow.at, MeterReadingRow.id)
        )
        return {row.meter: METERS.read(row) for row in self.session.scalars(query)}
