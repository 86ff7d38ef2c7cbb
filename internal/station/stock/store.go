package stock

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// trailTable is a whole trail as a table.
func trailTable(ctx context.Context, q sqlx.QueryerContext, ask ledger.Question) (exchange.Table, error) {
	t := exchange.Table{Header: []string{"at", "person", "kind", "sku", "lot", "serial", "carton", "location",
		"other", "delta", "in_place", "at_site", "document", "note"}}
	for ask.Limit = 200; ; {
		page, err := ledger.TrailOf(ctx, q, ask)
		if err != nil {
			return t, err
		}
		for _, l := range page.Lines {
			site := ""
			if l.SiteAfter != nil {
				site = l.SiteAfter.String()
			}
			t.Rows = append(t.Rows, []string{l.At.UTC().Format(time.RFC3339), l.Person, l.Kind, l.SKU, or(l.Lot),
				or(l.Serial), or(l.Carton), l.Location, l.Other, l.Delta.String(), l.LocationAfter.String(), site, l.Document, l.Note})
		}
		if ask.After = page.Next; ask.After == "" {
			return t, nil
		}
	}
}

func or(text *string) string {
	if text == nil {
		return ""
	}
	return *text
}

func readSerial(ctx context.Context, q sqlx.QueryerContext, id int64) (SerialPage, error) {
	u, err := serials.ByID(ctx, q, id)
	if err != nil {
		return SerialPage{}, err
	}
	item, err := catalog.ItemByID(ctx, q, u.ItemID)
	if err != nil {
		return SerialPage{}, err
	}
	out := SerialPage{ID: u.ID, Code: u.Code, ItemID: item.ID, SKU: item.SKU, Description: item.Description,
		Where: u.Where()}
	if u.Real {
		out.LocationID = u.LocationID
	}
	out.Journey, err = readJourney(ctx, q, id)
	return out, err
}

func readLot(ctx context.Context, q sqlx.QueryerContext, id int64) (LotPage, error) {
	var lot LotPage
	err := sqlx.GetContext(ctx, q, &lot, `
		SELECT l.id, l.code, i.id AS item_id, i.sku, i.description AS item,
		       to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on
		  FROM lots l JOIN items i ON i.id = l.item_id WHERE l.id = $1`, id)
	if err != nil {
		return lot, documents.Found(err, "lot", fmt.Sprint(id))
	}
	lot.Life, err = lifeOf(ctx, q, id)
	return lot, err
}

// mostLife is how many changes of a lot's quantity are followed.
const mostLife = 1000

// lifeOf follows how much there was of a lot: what came to us, and what left us.
func lifeOf(ctx context.Context, q sqlx.QueryerContext, lot int64) ([]LifePoint, error) {
	out := []LifePoint{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT at, kind, sum(change) OVER (ORDER BY id) AS on_hand FROM (
			SELECT po.id, po.happened_at AS at, po.kind,
			       sum(CASE WHEN m.from_site IS NULL THEN m.quantity WHEN m.to_site IS NULL THEN -m.quantity ELSE 0 END) AS change
			  FROM moves m JOIN postings po ON po.id = m.posting_id WHERE m.lot_id = $1 GROUP BY po.id) AS changes
		 WHERE change <> 0 ORDER BY id LIMIT $2`, lot, mostLife)
	if err != nil {
		return nil, fmt.Errorf("following a lot: %w", err)
	}
	return out, nil
}

// readPlan reads what of a site's plan stays as it is: its cross aisles and aisles, and since when anything moved.
func readPlan(ctx context.Context, q sqlx.QueryerContext, site int32) (FloorPlan, error) {
	plan := FloorPlan{Cross: []float64{}, Aisles: []FloorAisle{}, Bins: []FloorBin{}, Locations: []FloorBin{},
		Walks: []Walk{}}
	if err := sqlx.GetContext(ctx, q, &plan.Site, `SELECT name FROM sites WHERE id = $1`, site); err != nil {
		return plan, documents.Found(err, "site", fmt.Sprint(site))
	}
	if err := sqlx.SelectContext(ctx, q, &plan.Cross, `
		SELECT unnest(cross_aisles)::float8 FROM sites WHERE id = $1`, site); err != nil {
		return plan, fmt.Errorf("reading cross aisles: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &plan.Aisles, `
		SELECT code, x FROM aisles WHERE site_id = $1 ORDER BY x`, site); err != nil {
		return plan, fmt.Errorf("reading aisles: %w", err)
	}
	var err error
	plan.First, err = ledger.FirstEntered(ctx, q)
	return plan, err
}

// sort parts locations into bins and others.
func (p *FloorPlan) sort(all []FloorBin) {
	for _, b := range all {
		if b.Kind == "bin" {
			p.Bins = append(p.Bins, b)
		} else {
			p.Locations = append(p.Locations, b)
		}
	}
}

// ReadFloor reads the plan of a site as it is now.
func ReadFloor(ctx context.Context, q sqlx.QueryerContext, site int32) (FloorPlan, error) {
	plan, err := readPlan(ctx, q, site)
	if err != nil {
		return plan, err
	}
	var all []FloorBin
	err = sqlx.SelectContext(ctx, q, &all, `
		SELECT p.id, p.code, p.kind, p.x, p.y, p.level, coalesce(s.units, 0) AS units, `+fullShare+` AS full_share,
		       EXISTS (SELECT FROM count_requests d WHERE d.location_id = p.id
		       AND d.state = 'requested') AS count_request
		  FROM `+binFill+`
		 WHERE p.site_id = $1 ORDER BY p.code`, site)
	if err != nil {
		return plan, fmt.Errorf("reading the floor: %w", err)
	}
	plan.sort(all)
	err = sqlx.SelectContext(ctx, q, &plan.Walks, `
		SELECT r.number AS round, r.id, coalesce(pe.name, '') AS person, r.state, r.path,
		       (SELECT count(*) FROM round_stops WHERE round_id = r.id) AS stops,
		       (SELECT count(*) FROM round_stops WHERE round_id = r.id AND state <> 'open') AS done, p.x, p.y
		  FROM rounds r LEFT JOIN people pe ON pe.id = r.picker_id
		  LEFT JOIN locations p ON p.id = (SELECT location_id FROM round_stops WHERE round_id = r.id
		    AND state = 'open' ORDER BY seq LIMIT 1)
		 WHERE r.site_id = $1 AND r.state <> 'done' ORDER BY r.id`, site)
	if err != nil {
		return plan, fmt.Errorf("reading walks: %w", err)
	}
	return plan, nil
}

// picksOver is over how many days back the picks of a bin are counted.
const picksOver = 7

// readUses reads what the bins of a site saw. It looks into the moves, so that it is asked
// for where it is shown alone.
func readUses(ctx context.Context, q sqlx.QueryerContext, site int32) ([]BinUse, error) {
	out := []BinUse{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT p.id, coalesce(k.picks, 0) AS picks,
		       (SELECT floor(extract(epoch FROM now() - min(came.at)) / 86400)::int
		          FROM (SELECT DISTINCT item_id FROM balances WHERE location_id = p.id AND quantity > 0) AS b,
		       LATERAL (SELECT po.entered_at AS at FROM moves m JOIN postings po ON po.id = m.posting_id
		          WHERE m.to_location = p.id AND m.item_id = b.item_id ORDER BY m.id DESC LIMIT 1) AS came) AS age_days
		  FROM locations p LEFT JOIN (
			SELECT m.from_location, count(DISTINCT m.posting_id) AS picks
			  FROM postings po JOIN moves m ON m.posting_id = po.id
			 WHERE po.kind = 'pick' AND po.entered_at > now() - make_interval(days => $2) GROUP BY 1) AS k
			    ON k.from_location = p.id
		 WHERE p.site_id = $1 AND p.kind = 'bin' ORDER BY p.id`, site, picksOver)
	if err != nil {
		return nil, fmt.Errorf("reading what bins saw: %w", err)
	}
	return out, nil
}

// mostExported is how many moves go into one file.
const mostExported = 100_000

// historyTable is history to be exported, newest first.
func historyTable(ctx context.Context, q sqlx.QueryerContext, site int32, f ledger.Filter) (exchange.Table, error) {
	t := exchange.Table{Money: []string{"value"}, Header: []string{"at", "person", "kind", "sku", "description", "lot_or_serial", "carton", "from",
		"to", "from_condition", "to_condition", "quantity", "value", "from_after", "to_after", "document", "note"}}
	page, err := ledger.History(ctx, q, site, f, documents.Sorting{Key: ledger.HistoryKeys["at"], Down: true}, mostExported)
	if err == nil && page.Next != "" {
		err = refusal.New(refusal.TableLong, "", "%d moves are more than the %d that go into one file. Narrow the days.",
			*page.Total, mostExported)
	}
	for _, l := range page.Lines {
		t.Rows = append(t.Rows, []string{l.At.UTC().Format(time.RFC3339), l.Person, l.Kind, l.SKU, l.Description,
			l.Tracked, l.Carton, l.From, l.To, l.FromCondition, l.ToCondition, l.Quantity.String(), l.Value.StringFixed(2), number(l.FromAfter),
			number(l.ToAfter), l.Document, l.Note})
	}
	return t, err
}

func number(d *decimal.Decimal) string {
	if d == nil {
		return ""
	}
	return d.String()
}
