package transfers

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A CaseKind is how what came differs from what was shipped.
type CaseKind string

// The kinds of cases.
const (
	Less     CaseKind = "less"
	More     CaseKind = "more"
	OtherLot CaseKind = "other_lot"
	Damaged  CaseKind = "damaged"
)

// An Outcome is how a case is settled.
type Outcome string

// The outcomes: the goods are taken in here, are back at the first site, are lost, or are the carrier's to pay.
const (
	TakenIn Outcome = "received"
	Back    Outcome = "back"
	Lost    Outcome = "lost"
	Carrier Outcome = "carrier"
)

// A Case is a difference between what was shipped and what came, open until somebody settles it. While it is open its
// goods stay in transit.
type Case struct {
	ID         int64           `db:"id" json:"id"`
	Number     string          `db:"number" json:"number"`
	OrderID    int64           `db:"order_id" json:"order_id"`
	Order      string          `db:"order_number" json:"order"`
	InboundID  int64           `db:"inbound_id" json:"inbound_id"`
	ShipmentID int64           `db:"shipment_id" json:"shipment_id"`
	Shipment   string          `db:"shipment" json:"shipment"`
	Arrival    string          `db:"arrival" json:"arrival" doc:"The arrivals that brought the rest of it"`
	From       string          `db:"from_site" json:"from"`
	To         string          `db:"to_site" json:"to"`
	FromSite   int32           `db:"from_id" json:"-"`
	ToSite     int32           `db:"to_id" json:"to_site_id"`
	Transit    int32           `db:"transit_id" json:"-"`
	LineID     int64           `db:"line_id" json:"line_id"`
	ItemID     int32           `db:"item_id" json:"item_id"`
	SKU        string          `db:"sku" json:"sku"`
	Item       string          `db:"item" json:"item"`
	Unit       string          `db:"unit" json:"unit"`
	Tracking   string          `db:"tracking" json:"-"`
	Kind       CaseKind        `db:"kind" json:"kind" enum:"less,more,other_lot,damaged"`
	LotID      *int64          `db:"lot_id" json:"-"`
	Lot        string          `db:"lot" json:"lot"`
	CameLotID  *int64          `db:"came_lot_id" json:"-"`
	CameLot    string          `db:"came_lot" json:"came_lot"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity"`
	Serials    []string        `db:"-" json:"serials" nullable:"false"`
	Listed     string          `db:"listed" json:"-"`
	Note       string          `db:"note" json:"note"`
	OpenedBy   string          `db:"opened_by" json:"opened_by"`
	OpenedAt   time.Time       `db:"opened_at" json:"opened_at"`
	Days       int             `db:"days" json:"days" doc:"How many days it is open, or was"`
	UnitCost   decimal.Decimal `db:"unit_cost" json:"-"`
	// Outcome, and what follows, is empty until it is settled.
	Outcome   Outcome         `db:"outcome" json:"outcome" enum:",received,back,lost,carrier"`
	Value     decimal.Decimal `db:"value" json:"value" money:"true" doc:"What it was worth, where it is lost or the carrier's"`
	Reason    string          `db:"reason" json:"reason"`
	SettledBy string          `db:"settled_by" json:"settled_by"`
	SettledAt *time.Time      `db:"settled_at" json:"settled_at"`
	documents.Sorted
}

const caseColumns = `
	SELECT k.id, k.number, o.id AS order_id, o.number AS order_number, n.id AS inbound_id, d.id AS shipment_id,
	       d.number AS shipment, coalesce((SELECT string_agg(a.number, ' ' ORDER BY a.id) FROM arrivals a
	         JOIN arrival_orders x ON x.arrival_id = a.id WHERE x.order_id = n.id), '') AS arrival,
	       f.name AS from_site, f.id AS from_id, s.name AS to_site, s.id AS to_id, n.source_id AS transit_id, k.line_id,
	       i.id AS item_id, i.sku, i.description AS item, i.base_unit AS unit, i.tracking, k.kind, k.lot_id,
	       coalesce(l.code, '') AS lot, k.came_lot AS came_lot_id, coalesce(c.code, '') AS came_lot, k.quantity,
	       array_to_string(k.serials, E'\\n') AS listed, k.note, p.name AS opened_by, k.opened_at,
	       (coalesce(k.settled_at, now())::date - k.opened_at::date)::int AS days,
	       coalesce((SELECT round(sum(m.quantity * m.unit_cost) / sum(m.quantity), 4)
	                   FROM postings t JOIN moves m ON m.posting_id = t.id
	                  WHERE t.document = d.number AND t.document <> '' AND t.kind = 'ship' AND m.item_id = i.id),
	         (SELECT round(average, 4) FROM item_costs WHERE item_id = i.id AND site_id = f.id), i.cost) AS unit_cost,
	       coalesce(k.outcome, '') AS outcome, k.value, k.reason, coalesce(e.name, '') AS settled_by, k.settled_at
	  FROM transfer_cases k JOIN inbound_lines b ON b.id = k.line_id JOIN inbound_orders n ON n.id = b.order_id
	  JOIN shipments d ON d.id = n.shipment_id JOIN outbound_orders o ON o.id = d.order_id
	  JOIN sites f ON f.id = o.site_id JOIN sites s ON s.id = n.site_id JOIN items i ON i.id = k.item_id
	  JOIN people p ON p.id = k.opened_by LEFT JOIN people e ON e.id = k.settled_by
	  LEFT JOIN lots l ON l.id = k.lot_id LEFT JOIN lots c ON c.id = k.came_lot `

func readCases(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Case, error) {
	out := []Case{}
	if err := sqlx.SelectContext(ctx, q, &out, caseColumns+where, args...); err != nil {
		return nil, fmt.Errorf("reading cases: %w", err)
	}
	for i := range out {
		out[i].unfold()
	}
	return out, nil
}

// unfold reads the units that the database listed.
func (c *Case) unfold() {
	c.Serials = strings.FieldsFunc(c.Listed, func(r rune) bool { return r == '\n' })
	if c.Serials == nil {
		c.Serials = []string{}
	}
}

func readCase(ctx context.Context, q sqlx.QueryerContext, id int64) (c Case, err error) {
	found, err := readCases(ctx, q, `WHERE k.id = $1`, id)
	if err == nil && len(found) == 0 {
		err = documents.Missing("case", fmt.Sprint(id))
	}
	if err != nil {
		return c, err
	}
	return found[0], nil
}

// outOfTransit are the moves of a case's goods from where they are in transit, out of the cartons that they are in,
// along the rest of a move.
func (c Case) outOfTransit(ctx context.Context, q sqlx.QueryerContext, m ledger.Move) ([]ledger.Move, error) {
	way, err := inbound.ReadOnTheWay(ctx, q, c.Transit, c.ToSite)
	if err != nil {
		return nil, err
	}
	m.Item, m.Lot, m.LotCode, m.From, m.Quantity = c.ItemID, c.LotID, c.Lot, c.Transit, c.Quantity
	if len(c.Serials) == 0 {
		if have := way.Of(c.ItemID, c.Lot, ""); have.LessThan(c.Quantity) {
			return nil, c.notThere("lot", strings.TrimSpace(c.Quantity.String()+" of "+c.SKU+" "+c.Lot))
		}
		return way.Spread(m), nil
	}
	units, err := serials.Find(ctx, q, c.ItemID, c.Serials)
	if err != nil {
		return nil, err
	}
	var out []ledger.Move
	for _, code := range c.Serials {
		u := units[code]
		if way.Of(c.ItemID, c.Lot, code).IsZero() {
			return nil, c.notThere("serials", "serial "+code+" of "+c.SKU)
		}
		m.Serial, m.SerialCode, m.Quantity = &u.ID, code, decimal.NewFromInt(1)
		out = append(out, way.Spread(m)...)
	}
	return out, nil
}

// notThere refuses goods that are not in transit.
func (c Case) notThere(field, goods string) error {
	return refusal.New(refusal.NotInTransit, field,
		"There is no %s in transit: it came, or was never sent. Look at the delivery note again.",
		goods).Of(refusal.Conflict)
}

// tell tells both sites that a case changed.
func (c Case) tell(tx *command.Tx) {
	for _, site := range []int32{c.FromSite, c.ToSite} {
		tx.NotifySite(site, ledger.Topics(append(topics, "receive", "putaway")...)...)
	}
}

// caseTable writes cases into a file.
func caseTable(cases []Case, err error) (exchange.Table, error) {
	t := exchange.Table{Money: []string{"value"}, Header: []string{"case", "transfer", "from", "to", "sku", "kind", "quantity", "lot", "came_lot", "serials",
		"note", "opened_at", "days", "outcome", "value", "reason"}}
	for _, c := range cases {
		t.Rows = append(t.Rows, []string{c.Number, c.Order, c.From, c.To, c.SKU, string(c.Kind), c.Quantity.String(), c.Lot, c.CameLot,
			strings.Join(c.Serials, " "), c.Note, c.OpenedAt.UTC().Format(time.RFC3339), strconv.Itoa(c.Days), string(c.Outcome),
			c.Value.String(), c.Reason})
	}
	return t, err
}
