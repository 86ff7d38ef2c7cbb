package purchasing

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/core/projection"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Cover is what a line of a sales order is short of, and whom it would be bought from.
type Cover struct {
	LineID     int64           `db:"line_id" json:"line_id"`
	Line       int             `db:"line" json:"line"`
	ItemID     int32           `db:"item_id" json:"item_id"`
	SKU        string          `db:"sku" json:"sku"`
	Bought     bool            `db:"bought" json:"bought"`
	Wanted     decimal.Decimal `db:"wanted" json:"wanted" doc:"What it still wants and is not reserved for it"`
	Free       decimal.Decimal `db:"-" json:"free" doc:"What is free when all orders have what they want"`
	OnOrder    decimal.Decimal `db:"on_order" json:"on_order" doc:"Ordered for this very line"`
	Others     decimal.Decimal `db:"others" json:"others" doc:"Ordered for other lines of other orders"`
	Short      decimal.Decimal `db:"-" json:"short"`
	SupplierID int32           `db:"supplier_id" json:"supplier_id" doc:"Of whom it was bought last; 0 when it never was"`
	Supplier   string          `db:"supplier" json:"supplier"`
	Price      decimal.Decimal `db:"price" json:"price" money:"true"`
	// Elsewhere is what other sites have to spare of what is short.
	Elsewhere []availability.Elsewhere `db:"-" json:"elsewhere" nullable:"false"`
}

type covering struct {
	site     int32
	number   string
	wantedOn time.Time
	lines    []Cover
}

// readCover calculates what an order is short of, line by line.
func readCover(ctx context.Context, q sqlx.QueryerContext, order int64, now time.Time) (covering, error) {
	var c covering
	var o struct {
		Number string
		State  states.Outbound
		Site   int32     `db:"site_id"`
		Wanted time.Time `db:"wanted_on"`
	}
	if err := sqlx.GetContext(ctx, q, &o, `
		SELECT number, state, site_id, wanted_on FROM outbound_orders WHERE id = $1`, order); err != nil {
		return c, documents.Found(err, "order", fmt.Sprint(order))
	}
	if o.State != states.OnHold && o.State != states.Released {
		return c, refusal.New(refusal.OrderNotOpen, "",
			"%s is %s. Only an order that is on hold or released can be short.", o.Number, states.Label(o.State)).Of(refusal.Conflict)
	}
	c.site, c.number, c.wantedOn = o.Site, o.Number, o.Wanted
	err := sqlx.SelectContext(ctx, q, &c.lines, `
		WITH each AS (
			SELECT c.covers, c.item_id, greatest(c.quantity - c.received, 0) AS q
			  FROM inbound_lines c JOIN inbound_orders b ON b.id = c.order_id
			 WHERE c.covers IS NOT NULL AND NOT c.closed AND b.state IN ('draft', 'placed', 'partly_received')
			   AND b.site_id = $2
			UNION ALL
			SELECT t.covers, c.item_id, c.quantity - c.cancelled - c.shipped
			  FROM transfer_covers t JOIN outbound_lines c ON c.id = t.line_id JOIN outbound_orders b ON b.id = c.order_id
			 WHERE b.state IN ('on_hold', 'released') AND b.to_site_id = $2),
		     coming AS (SELECT covers, item_id, sum(q) AS q FROM each GROUP BY 1, 2)
		SELECT l.id AS line_id, l.line, i.id AS item_id, i.sku, i.bought,
		       l.due - coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0) AS wanted,
		       coalesce((SELECT q FROM coming WHERE covers = l.id), 0) AS on_order,
		       coalesce((SELECT sum(q) FROM coming WHERE item_id = i.id AND covers <> l.id), 0) AS others,
		       coalesce(s.supplier_id, 0) AS supplier_id, coalesce(s.name, '') AS supplier,
		       coalesce(s.price, i.cost) AS price
		  FROM outbound_lines l JOIN items i ON i.id = l.item_id
		  LEFT JOIN LATERAL (SELECT o.supplier_id, p.name, c.price
		                       FROM inbound_lines x JOIN purchase_lines c ON c.line_id = x.id
		                       JOIN purchase_orders o ON o.order_id = x.order_id JOIN parties p ON p.id = o.supplier_id
		                      WHERE x.item_id = i.id ORDER BY x.id DESC LIMIT 1) AS s ON true
		 WHERE l.order_id = $1 AND l.due > 0 ORDER BY l.line`, order, o.Site)
	if err != nil {
		return c, fmt.Errorf("reading what an order is short of: %w", err)
	}
	items := make([]int32, len(c.lines))
	for i, l := range c.lines {
		items[i] = l.ItemID
	}
	figures, err := ledger.FiguresFor(ctx, q, items, o.Site)
	if err != nil {
		return c, err
	}
	// Lines of one item share what is free: each is left what those before it leave.
	claimed := map[int32]decimal.Decimal{}
	for i := range c.lines {
		l := &c.lines[i]
		l.Free = figures[l.ItemID].Free
		l.Short = decimal.Max(projection.Shortfall{Wanted: l.Wanted, Free: l.Free, OnOrder: l.OnOrder,
			Others: l.Others.Add(claimed[l.ItemID])}.Short(), decimal.Zero)
		claimed[l.ItemID] = claimed[l.ItemID].Add(l.Short)
	}
	elsewhere, err := availability.ReadElsewhere(ctx, q, o.Site, items, now)
	for i := range c.lines {
		c.lines[i].Elsewhere = availability.NeededOn(elsewhere[c.lines[i].ItemID], o.Wanted.Format(time.DateOnly))
	}
	return c, err
}

// CoverOrder buys in exactly what a sales order is short of: a draft for each supplier, whose
// lines are reserved for the lines they cover. What comes on them is reserved on its own.
func CoverOrder(ctx context.Context, tx *command.Tx, order int64) ([]Order, error) {
	// Two people who cover one order do it one after another.
	if err := documents.Change(ctx, tx, documents.OutboundOrder, order, 0, "covered its shortages"); err != nil {
		return nil, err
	}
	c, err := readCover(ctx, tx, order, tx.Now)
	if err != nil {
		return nil, err
	}
	wanted := c.wantedOn
	if wanted.Before(tx.Now) {
		wanted = tx.Now
	}
	day := wanted.Format(time.DateOnly)
	var suppliers []int32
	by := map[int32]*NewOrder{}
	for _, l := range c.lines {
		switch {
		case !l.Short.IsPositive():
			continue
		case !l.Bought:
			return nil, refusal.New(refusal.ItemNotBought, "",
				"%s of %s are short, and it is not an item that is bought. Change that in the catalog first.", l.Short, l.SKU)
		case l.SupplierID == 0:
			return nil, refusal.New(refusal.SupplierUnknown, "",
				"%s of %s are short, and nobody has supplied it yet. Order it by hand once.", l.Short, l.SKU)
		}
		if by[l.SupplierID] == nil {
			suppliers = append(suppliers, l.SupplierID)
			by[l.SupplierID] = &NewOrder{SupplierID: l.SupplierID, SiteID: c.site, Note: "For " + c.number,
				OrderTerms: OrderTerms{ExpectedOn: day}}
		}
		line := l.LineID
		by[l.SupplierID].Lines = append(by[l.SupplierID].Lines, NewLine{ItemID: l.ItemID, Quantity: l.Short.String(),
			Price: l.Price.String(), NeededOn: day, covers: &line})
	}
	if len(suppliers) == 0 {
		return nil, refusal.New(refusal.NothingShort, "",
			"%s is short of nothing: all is free, reserved for it or on order for it.", c.number).Of(refusal.Conflict)
	}
	out := []Order{}
	for _, s := range suppliers {
		o, err := CreateOrder(ctx, tx, *by[s])
		if err != nil {
			return nil, err
		}
		out = append(out, o)
	}
	tx.NotifySite(c.site, "orders")
	return out, nil
}
