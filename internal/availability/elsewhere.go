package availability

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/relaying"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Elsewhere is what another site of ours has to spare of an item, and when it could be here.
type Elsewhere struct {
	SiteID int32           `json:"site_id"`
	Site   string          `json:"site"`
	Spare  decimal.Decimal `json:"spare" doc:"What is free there beyond its target and all that its orders want, in base units"`
	// ArrivesOn is when a transfer would be here that is written today; InTime tells whether that is no later than
	// needed.
	ArrivesOn string `json:"arrives_on"`
	InTime    bool   `json:"in_time"`
}

// usualDays is how many days a transfer is on its way where nobody knows better (no source).
const usualDays = 2

// otherSite is a site that goods could come from: with how many days its last transfer here was on its way, or a
// standing rule says.
type otherSite struct {
	ID   int32
	Name string
	Days int
}

// ReadElsewhere reads what other sites have to spare of items that a site is short of, by item. Where neither site may
// keep an item, none is.
func ReadElsewhere(
	ctx context.Context, q sqlx.QueryerContext, site int32, items []int32, now time.Time,
) (map[int32][]Elsewhere, error) {
	var sites []otherSite
	if err := sqlx.SelectContext(ctx, q, &sites, `
		SELECT s.id, s.name, coalesce((SELECT o.due_on - o.wanted_on FROM outbound_orders o
		                                WHERE o.kind = 'transfer' AND o.site_id = s.id AND o.to_site_id = $1
		                                  AND o.state <> 'cancelled' ORDER BY o.id DESC LIMIT 1),
		                              (SELECT min(days) FROM relay_rules WHERE site_id = s.id AND to_site_id = $1 AND NOT retired),
		                              $2) AS days
		  FROM sites s WHERE s.id <> $1 ORDER BY s.name`, site, usualDays); err != nil {
		return nil, fmt.Errorf("reading sites: %w", err)
	}
	out := map[int32][]Elsewhere{}
	for _, s := range sites {
		if err := s.spare(ctx, q, site, items, now, out); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// spare adds what the other site has to spare.
func (s otherSite) spare(
	ctx context.Context, q sqlx.QueryerContext, site int32, items []int32, now time.Time, out map[int32][]Elsewhere,
) error {
	figures, err := ledger.FiguresFor(ctx, q, items, s.ID)
	if err != nil {
		return err
	}
	var levels []struct {
		ID     int32
		Target decimal.Decimal
		Whole  bool
	}
	if err := sqlx.SelectContext(ctx, q, &levels, `
		SELECT i.id, i.whole, coalesce((SELECT target FROM item_sites WHERE item_id = i.id AND site_id = $1), 0) AS target
		  FROM items i
		 WHERE i.id = ANY($3) AND i.stocked
		   AND NOT EXISTS (SELECT FROM item_sites WHERE item_id = i.id AND site_id IN ($1, $2) AND NOT allowed)`,
		s.ID, site, items); err != nil {
		return fmt.Errorf("reading targets: %w", err)
	}
	for _, l := range levels {
		if n := relaying.Spare(figures[l.ID].Free, l.Target, l.Whole); n.IsPositive() {
			out[l.ID] = append(out[l.ID], Elsewhere{SiteID: s.ID, Site: s.Name, Spare: n,
				ArrivesOn: now.AddDate(0, 0, s.Days).UTC().Format(time.DateOnly)})
		}
	}
	return nil
}

// NeededOn tells of each whether it would be here by a day, YYYY-MM-DD.
func NeededOn(all []Elsewhere, day string) []Elsewhere {
	out := make([]Elsewhere, len(all))
	for i, e := range all {
		e.InTime = e.ArrivesOn <= day
		out[i] = e
	}
	return out
}
