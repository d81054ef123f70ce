"""Sites and assets."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.store.records import Asset, Site
from reedling.store.tables import AssetRow, SiteRow


def _site(row: SiteRow) -> Site:
    return Site(
        id=row.id, name=row.name, district=row.district, east=row.east, north=row.north, zone=row.zone
    )


def _asset(row: AssetRow, site: SiteRow) -> Asset:
    return Asset(
        id=row.id,
        name=row.name,
        site=_site(site),
        equipment=row.equipment,
        model=row.model,
        serial=row.serial,
    )


@dataclass(frozen=True, slots=True)
class Places:
    """Repository of sites and assets."""

    session: Session

    def add_site(self, site: Site) -> None:
        """Add a site."""
        self.session.add(
            SiteRow(
                id=site.id,
                name=site.name,
                district=site.district,
                east=site.east,
                north=site.north,
                zone=site.zone,
            )
        )
        self.session.flush()

    def add_asset(self, asset: Asset) -> None:
        """Add an asset at a site that is there."""
        self.session.add(
            AssetRow(
                id=asset.id,
                name=asset.name,
                site_id=asset.site.id,
                equipment=asset.equipment,
                model=asset.model,
                serial=asset.serial,
            )
        )
        self.session.flush()

    def asset(self, asset_id: str) -> Asset | None:
        """The asset, if there is one."""
        row = self.session.get(AssetRow, asset_id)
        if row is None:
            return None
        site = self.session.get(SiteRow, row.site_id)
        assert site is not None
        return _asset(row, site)

    def assets(self) -> tuple[Asset, ...]:
        """All assets, by site and name."""
        query = select(AssetRow, SiteRow).join(SiteRow, AssetRow.site_id == SiteRow.id)
        rows = self.session.execute(query.order_by(SiteRow.name, AssetRow.name)).all()
        return tuple(_asset(row, site) for row, site in rows)
