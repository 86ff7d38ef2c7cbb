// Package outbound keeps what must leave a site, whatever its kind: a sale, the first half of
// a transfer, goods back to a supplier, a replacement. The floor reserves, picks, packs,
// loads and ships these orders and knows no more of them than stands here; each kind keeps
// its commercial side in a package of its own.
package outbound

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Kind of outbound order.
type Kind string

// The kinds there are.
const (
	Sale           Kind = "sale"
	Transfer       Kind = "transfer"
	SupplierReturn Kind = "supplier_return"
	Replacement    Kind = "replacement"
)

// New is an order as it is written. It goes either to a party or to another site.
type New struct {
	Kind    Kind
	SiteID  int32
	PartyID int32
	ToSite  int32
	// DestinationID is where its goods are once they are shipped: with the customer, or in
	// transit.
	DestinationID int32
	State         states.Outbound
	// Change says what was done, for whoever looks at a stale page.
	Change   string
	WantedOn time.Time
	// DueOn is when its goods are due where they go, where that is known.
	DueOn     *time.Time
	Carrier   string
	Reference string
}

var numbering = map[Kind]documents.Numbers{
	Sale:           {Prefix: "S", Sequence: "sales_numbers"},
	Transfer:       {Prefix: "T", Sequence: "outbound_numbers"},
	SupplierReturn: {Prefix: "RS", Sequence: "outbound_numbers"},
	Replacement:    {Prefix: "RP", Sequence: "outbound_numbers"},
}

// Create writes an order without lines, wanted on the day of the command unless in says
// otherwise, and returns its id.
func Create(ctx context.Context, tx *command.Tx, in New) (id int64, err error) {
	if err := tx.At(ctx, in.SiteID); err != nil {
		return 0, err
	}
	n := numbering[in.Kind]
	if in.WantedOn.IsZero() {
		in.WantedOn = tx.Now
	}
	err = tx.GetContext(ctx, &id, `
		INSERT INTO outbound_orders (number, kind, site_id, party_id, to_site_id, destination_id, wanted_on,
		  reference, carrier, state, changed_by, changed_at, last_change, due_on)
		VALUES ($1 || '-' || nextval($2::regclass), $3, $4, nullif($5, 0), nullif($6, 0), $7, $8::timestamptz::date,
		  $9, $10, $11, $12, $13, $14, $15) RETURNING id`,
		n.Prefix, n.Sequence, in.Kind, in.SiteID, in.PartyID, in.ToSite, in.DestinationID, in.WantedOn, in.Reference,
		in.Carrier, in.State, tx.Person.ID, tx.Now, in.Change, in.DueOn)
	if err != nil {
		return 0, fmt.Errorf("writing an outbound order: %w", err)
	}
	documents.Made(tx, documents.OutboundOrder, id)
	return id, nil
}

// NewLine is a line as it is written: an item and how much of it in base units, or, without
// an item, a text that says a non-stock line.
type NewLine struct {
	Item     int32
	Text     string
	Quantity decimal.Decimal
}

// AddLines writes further lines in one statement, and returns their ids in the same order.
// The order is held, or made in this transaction.
func AddLines(ctx context.Context, tx *command.Tx, order int64, lines []NewLine) ([]int64, error) {
	items, texts, quantities := make([]int32, len(lines)), make([]string, len(lines)), make([]string, len(lines))
	for i, l := range lines {
		items[i], texts[i], quantities[i] = l.Item, strings.TrimSpace(l.Text), l.Quantity.String()
	}
	ids := make([]int64, 0, len(lines))
	err := tx.SelectContext(ctx, &ids, `
		WITH added AS (
			INSERT INTO outbound_lines (order_id, line, item_id, text, quantity)
			SELECT $1, (SELECT coalesce(max(line), 0) FROM outbound_lines WHERE order_id = $1) + n, nullif(item, 0), text,
			       quantity::numeric
			  FROM unnest($2::int[], $3::text[], $4::text[]) WITH ORDINALITY AS t(item, text, quantity, n)
			RETURNING id, line)
		SELECT id FROM added ORDER BY line`, order, items, texts, quantities)
	if err != nil {
		return nil, fmt.Errorf("writing outbound lines: %w", err)
	}
	return ids, nil
}

// An Order is what the floor knows of an outbound order.
type Order struct {
	ID            int64           `db:"id"`
	Number        string          `db:"number"`
	Kind          Kind            `db:"kind"`
	SiteID        int32           `db:"site_id"`
	Recipient     string          `db:"recipient"`
	Address       string          `db:"address"`
	DestinationID int32           `db:"destination_id"`
	Carrier       string          `db:"carrier"`
	Reference     string          `db:"reference"`
	State         states.Outbound `db:"state"`
	// Wanted and Shipped are the sums of its stock lines, in base units.
	Wanted  decimal.Decimal `db:"wanted"`
	Shipped decimal.Decimal `db:"shipped"`
}

// Read reads an order.
func Read(ctx context.Context, q sqlx.QueryerContext, id int64) (o Order, err error) {
	err = sqlx.GetContext(ctx, q, &o, `
		SELECT o.id, o.number, o.kind, o.site_id, o.recipient, o.address, o.destination_id, o.carrier, o.reference,
		       o.state,
		       coalesce(l.wanted, 0) AS wanted, coalesce(l.shipped, 0) AS shipped
		  FROM outbound o LEFT JOIN LATERAL (
		       SELECT sum(quantity - cancelled) AS wanted, sum(shipped) AS shipped FROM outbound_lines
		        WHERE order_id = o.id AND item_id IS NOT NULL) AS l ON true
		 WHERE o.id = $1`, id)
	return o, documents.Found(err, "order", fmt.Sprint(id))
}
