// Package inbound keeps what is expected at a site, whatever its kind: a purchase, the
// second half of a transfer, a customer's return. The floor receives, inspects, labels and
// puts away what comes on these orders and knows no more of them than stands here; each
// kind keeps its commercial side in a package of its own.
package inbound

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// A Kind of inbound order.
type Kind string

// The kinds there are.
const (
	Purchase       Kind = "purchase"
	Transfer       Kind = "transfer"
	CustomerReturn Kind = "customer_return"
)

// Entrance is the kind of location that goods of such an order come in at.
func (k Kind) Entrance() string {
	if k == CustomerReturn {
		return "returns"
	}
	return "dock"
}

// Condition is what goods of such an order are in when they come: those that a customer sends back wait to be
// decided on, and are not inspected besides.
func (k Kind) Condition() posting.Condition {
	if k == CustomerReturn {
		return posting.Returned
	}
	return posting.Good
}

// Found is in what condition goods came, as whoever received them found it.
type Found string

// The conditions that goods are found in.
const (
	AsNew      Found = "as_new"
	Opened     Found = "opened"
	Used       Found = "used"
	Broken     Found = "broken"
	Incomplete Found = "incomplete"
)

// New is an order as it is written. Its goods come either from a party or from another site.
type New struct {
	Kind Kind
	// Number is the order's own where it has one already, as the second half of a transfer
	// has that of the first; it is counted without.
	Number   string
	SiteID   int32
	PartyID  int32
	FromSite int32
	// SourceID is where its goods are until they come: with the supplier, or in transit.
	SourceID int32
	// Shipment is what it is the other half of, where a site of ours shipped it.
	Shipment   int64
	State      states.Inbound
	ExpectedOn time.Time
	Note       string
	// AsksFound has it said of its goods in what condition they come.
	AsksFound bool
	// Change says what was done, for whoever looks at a stale page.
	Change string
}

var numbering = map[Kind]documents.Numbers{
	Purchase:       {Prefix: "P", Sequence: "purchase_numbers"},
	Transfer:       {Prefix: "TI", Sequence: "inbound_numbers"},
	CustomerReturn: {Prefix: "RC", Sequence: "inbound_numbers"},
}

// Create writes an order without lines, expected on the day of the command unless in says
// otherwise, and returns its id.
func Create(ctx context.Context, tx *command.Tx, in New) (id int64, err error) {
	// The second half of a transfer is made by whoever ships the first, at the other site.
	if in.Shipment == 0 {
		if err := tx.At(ctx, in.SiteID); err != nil {
			return 0, err
		}
	}
	n := numbering[in.Kind]
	if in.ExpectedOn.IsZero() {
		in.ExpectedOn = tx.Now
	}
	err = tx.GetContext(ctx, &id, `
		INSERT INTO inbound_orders (number, kind, site_id, party_id, from_site_id, source_id, expected_on,
		                            state, note, changed_by, changed_at, last_change, shipment_id, asks_found)
		VALUES (coalesce(nullif($1, ''), $2 || '-' || nextval($3::regclass)), $4, $5, nullif($6, 0), nullif($7, 0), $8,
		        $9::timestamptz::date, $10, $11, $12, $13, $14, nullif($15::bigint, 0), $16) RETURNING id`,
		in.Number, n.Prefix, n.Sequence, in.Kind, in.SiteID, in.PartyID, in.FromSite, in.SourceID,
		in.ExpectedOn, in.State, in.Note, tx.Person.ID, tx.Now, in.Change, in.Shipment, in.AsksFound)
	if err != nil {
		return 0, fmt.Errorf("writing an inbound order: %w", err)
	}
	documents.Made(tx, documents.InboundOrder, id)
	return id, nil
}

// A Source is whom goods come from, and where they are until they come.
type Source struct {
	PartyID    *int32 `db:"party_id" json:"party_id" doc:"The supplier or customer; none when the goods come from another site"`
	FromSiteID *int32 `db:"from_site_id" json:"from_site_id" doc:"The site of ours that the goods come from"`
	SourceID   int32  `db:"source_id" json:"-"`
	SourceCode string `db:"source_code" json:"-"`
	Source     string `db:"source" json:"source" doc:"Whom the goods come from"`
}

// Same tells whether goods come from the same location.
func (s Source) Same(o Source) bool { return s.SourceID == o.SourceID }

// An Order is what the floor knows of an inbound order.
type Order struct {
	ID     int64          `db:"id" json:"id"`
	Number string         `db:"number" json:"number"`
	Kind   Kind           `db:"kind" json:"kind" enum:"purchase,transfer,customer_return"`
	SiteID int32          `db:"site_id" json:"site_id"`
	State  states.Inbound `db:"state" json:"state" enum:"draft,placed,partly_received,received,closed"`
	// AsksFound tells whether it is said of its goods in what condition they come.
	AsksFound bool `db:"asks_found" json:"asks_found" doc:"It is said in what condition its goods come"`
	Source
}

const columns = `
	SELECT o.id, o.number, o.kind, o.site_id, o.state, o.asks_found, o.party_id, o.from_site_id, o.source_id,
	       o.source_code, o.source
	  FROM inbound o `

// Read reads an order.
func Read(ctx context.Context, q sqlx.QueryerContext, id int64) (o Order, err error) {
	err = sqlx.GetContext(ctx, q, &o, columns+`WHERE o.id = $1`, id)
	return o, documents.Found(err, "inbound order", fmt.Sprint(id))
}

// Of reads the orders whose goods come on an arrival.
func Of(ctx context.Context, q sqlx.QueryerContext, arrival int64) ([]Order, error) {
	out := []Order{}
	err := sqlx.SelectContext(ctx, q, &out, columns+`
		  JOIN arrival_orders r ON r.order_id = o.id WHERE r.arrival_id = $1 ORDER BY o.id`, arrival)
	if err != nil {
		return nil, fmt.Errorf("reading an arrival's orders: %w", err)
	}
	return out, nil
}

// Beside reads the open orders whose goods may be on the lorry of an arrival, beside those
// that are on it: of its source, for its site.
func Beside(ctx context.Context, q sqlx.QueryerContext, arrival int64) ([]Order, error) {
	out := []Order{}
	err := sqlx.SelectContext(ctx, q, &out, columns+`
		  JOIN arrivals a ON a.source_id = o.source_id AND a.site_id = o.site_id
		 WHERE a.id = $1 AND o.state IN ('placed', 'partly_received')
		   AND NOT EXISTS (SELECT FROM arrival_orders r WHERE r.arrival_id = a.id AND r.order_id = o.id)
		 ORDER BY o.expected_on, o.id`, arrival)
	if err != nil {
		return nil, fmt.Errorf("reading the orders beside an arrival: %w", err)
	}
	return out, nil
}
