package stock

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"lanternrow/internal/core/receiving"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// ItemRow is an item in the list of a site's stock.
type ItemRow struct {
	ID           int32           `db:"id" json:"id"`
	SKU          string          `db:"sku" json:"sku"`
	Description  string          `db:"description" json:"description"`
	Unit         string          `db:"unit" json:"unit"`
	Tracking     string          `db:"tracking" json:"tracking"`
	Home         string          `db:"home" json:"home"`
	ReorderPoint decimal.Decimal `db:"reorder_point" json:"reorder_point"`
	Bins         int             `db:"bins" json:"bins" doc:"In how many bins it lies"`
	Figures      ledger.Figures  `db:"-" json:"figures"`
	// Low tells whether what is free and on order is at its reorder point or below.
	Low bool `db:"-" json:"low"`
}

// ZoneFullness is how full the bins of a zone are, by whichever limit of each is nearest.
type ZoneFullness struct {
	Zone string `db:"zone" json:"zone"`
	Name string `db:"name" json:"name"`
	Bins int    `db:"bins" json:"bins"`
	// Empty, Part, Most and Full count bins: nothing in it, up to half, up to nine tenths, above.
	Empty int `db:"empty" json:"empty"`
	Part  int `db:"part" json:"part"`
	Most  int `db:"most" json:"most"`
	Full  int `db:"full_bins" json:"full"`
	// Share is the mean of them, 0 to 1.
	Share float64 `db:"share" json:"share"`
}

// ItemFilter narrows a list of items.
type ItemFilter struct {
	Text  string `query:"q" maxLength:"80" doc:"Words of a SKU or description"`
	Which string `query:"which" enum:"all,low,here,none" default:"all" doc:"All items, or those at their reorder point, on hand, or not on hand"`
}

func (f ItemFilter) takes(r ItemRow) bool {
	all := strings.ToLower(r.SKU + " " + r.Description)
	for _, word := range strings.Fields(strings.ToLower(f.Text)) {
		if !strings.Contains(all, word) {
			return false
		}
	}
	switch f.Which {
	case "low":
		return r.Low
	case "here":
		return r.Figures.OnHand.IsPositive()
	case "none":
		return !r.Figures.OnHand.IsPositive()
	}
	return true
}

func byText(of func(ItemRow) string) documents.ComputedKey[ItemRow] {
	return documents.ComputedKey[ItemRow]{Text: of}
}

func byFigure(of func(ItemRow) decimal.Decimal) documents.ComputedKey[ItemRow] {
	return documents.ComputedKey[ItemRow]{Figure: of}
}

// itemRows are a site's items, as a list.
var itemRows = documents.Computed[ItemRow]{
	Keys: map[string]documents.ComputedKey[ItemRow]{
		"sku":           byText(func(r ItemRow) string { return r.SKU }),
		"description":   byText(func(r ItemRow) string { return r.Description }),
		"unit":          byText(func(r ItemRow) string { return r.Unit }),
		"tracking":      byText(func(r ItemRow) string { return r.Tracking }),
		"home":          byText(func(r ItemRow) string { return r.Home }),
		"on_hand":       byFigure(func(r ItemRow) decimal.Decimal { return r.Figures.OnHand }),
		"reserved":      byFigure(func(r ItemRow) decimal.Decimal { return r.Figures.Reserved }),
		"free":          byFigure(func(r ItemRow) decimal.Decimal { return r.Figures.Free }),
		"on_order":      byFigure(func(r ItemRow) decimal.Decimal { return r.Figures.OnOrder }),
		"on_hold":       byFigure(func(r ItemRow) decimal.Decimal { return r.Figures.OnHold }),
		"in_cartons":    byFigure(func(r ItemRow) decimal.Decimal { return r.Figures.InCartons }),
		"promised":      byFigure(func(r ItemRow) decimal.Decimal { return r.Figures.Promised }),
		"reorder_point": byFigure(func(r ItemRow) decimal.Decimal { return r.ReorderPoint }),
		"bins":          byFigure(func(r ItemRow) decimal.Decimal { return decimal.NewFromInt(int64(r.Bins)) }),
	},
	ID: func(r ItemRow) string { return r.SKU },
}

// fullShare is how full a location is, 0 to 1, by whichever of its limits is nearest; for
// the clauses binFill.
const (
	fullShare = `least(1, coalesce(greatest(s.units / nullif(p.max_units, 0), s.kg / nullif(p.max_weight_kg, 0),
		       s.litres / nullif(p.max_volume_l, 0)), 0))::float8`
	binFill = `locations p LEFT JOIN (
			SELECT b.location_id, sum(b.quantity) AS units, sum(b.quantity * i.weight_kg) AS kg,
			       sum(b.quantity * i.volume_l) AS litres
			  FROM balances b JOIN items i ON i.id = b.item_id WHERE b.quantity > 0 GROUP BY 1) AS s
			    ON s.location_id = p.id`
)

// readItems reads the items of a site that are asked for, with their figures.
func readItems(ctx context.Context, q sqlx.QueryerContext, site int32, f ItemFilter) ([]ItemRow, error) {
	var rows []ItemRow
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT i.id, i.sku, i.description, i.base_unit AS unit, i.tracking, coalesce(h.code, '') AS home,
		       coalesce(x.reorder_point, 0) AS reorder_point, coalesce(b.bins, 0) AS bins
		  FROM items i LEFT JOIN item_sites x ON x.item_id = i.id AND x.site_id = $1
		  LEFT JOIN locations h ON h.id = x.home_id
		  LEFT JOIN (SELECT item_id, count(DISTINCT location_id) AS bins FROM balances b
		    JOIN locations p ON p.id = b.location_id AND p.kind = 'bin' AND p.site_id = $1
		    WHERE b.quantity > 0 GROUP BY 1) AS b ON b.item_id = i.id
		 ORDER BY i.sku`, site); err != nil {
		return nil, fmt.Errorf("reading items: %w", err)
	}
	figures, err := ledger.FiguresAt(ctx, q, site)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		row := &rows[i]
		row.Figures = figures[row.ID]
		row.Low = row.ReorderPoint.IsPositive() &&
			receiving.Levels{ReorderPoint: row.ReorderPoint}.Reached(row.Figures.Free, row.Figures.OnOrder)
	}
	return slices.DeleteFunc(rows, func(r ItemRow) bool { return !f.takes(r) }), nil
}

// itemTable is a list of items as a table.
func itemTable(
	ctx context.Context, q sqlx.QueryerContext, site int32, f ItemFilter, sort string, down bool,
) (exchange.Table, error) {
	t := exchange.Table{Header: []string{"sku", "description", "unit", "tracking", "home", "on_hand", "on_hold",
		"in_cartons", "reserved", "promised", "free", "on_order", "reorder_point", "bins"}}
	rows, err := readItems(ctx, q, site, f)
	if err != nil {
		return t, err
	}
	page, err := itemRows.Page(rows, sort, documents.Asked{Down: down, Limit: len(rows)})
	for _, r := range page.Rows {
		g := r.Figures
		t.Rows = append(t.Rows, []string{r.SKU, r.Description, r.Unit, r.Tracking, r.Home, g.OnHand.String(),
			g.OnHold.String(), g.InCartons.String(), g.Reserved.String(), g.Promised.String(), g.Free.String(),
			g.OnOrder.String(), r.ReorderPoint.String(), strconv.Itoa(r.Bins)})
	}
	return t, err
}

// readZones reads how full the zones of a site are.
func readZones(ctx context.Context, q sqlx.QueryerContext, site int32) ([]ZoneFullness, error) {
	zones := []ZoneFullness{}
	if err := sqlx.SelectContext(ctx, q, &zones, `
		SELECT z.code AS zone, z.name, count(*) AS bins, count(*) FILTER (WHERE f.share = 0) AS empty,
		       count(*) FILTER (WHERE f.share > 0 AND f.share <= 0.5) AS part,
		       count(*) FILTER (WHERE f.share > 0.5 AND f.share <= 0.9) AS most,
		       count(*) FILTER (WHERE f.share > 0.9) AS full_bins, avg(f.share) AS share
		  FROM (SELECT p.zone_id, `+fullShare+` AS share FROM `+binFill+`
		         WHERE p.site_id = $1 AND p.kind = 'bin') AS f
		  JOIN zones z ON z.id = f.zone_id GROUP BY z.id ORDER BY z.code`, site); err != nil {
		return nil, fmt.Errorf("reading how full zones are: %w", err)
	}
	return zones, nil
}
