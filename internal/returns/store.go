package returns

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/core/returning"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Return is goods that a customer sends back, with how far it is.
type Return struct {
	ID          int64         `db:"id" json:"id"`
	Number      string        `db:"number" json:"number"`
	SiteID      int32         `db:"site_id" json:"site_id"`
	CustomerID  int32         `db:"customer_id" json:"customer_id"`
	Customer    string        `db:"customer" json:"customer"`
	Email       string        `db:"email" json:"-"`
	KindID      int32         `db:"kind_id" json:"kind_id"`
	Kind        string        `db:"kind" json:"kind"`
	State       states.Return `db:"-" json:"state" enum:"asked,announced,partly_received,received,decided,settled,withdrawn"`
	SendBy      string        `db:"send_by" json:"send_by"`
	Late        bool          `db:"late" json:"late" doc:"It should be here by now"`
	Note        string        `db:"note" json:"note"`
	Reason      string        `db:"reason" json:"reason" doc:"Why it was taken though no paper is known of"`
	AnnouncedAt time.Time     `db:"announced_at" json:"announced_at"`
	Version     int32         `db:"version" json:"version"`
	// Expected, Received and Decided are the sums of its lines, in base units.
	Expected decimal.Decimal `db:"expected" json:"expected"`
	Received decimal.Decimal `db:"received" json:"received"`
	Decided  decimal.Decimal `db:"decided" json:"decided"`
	Kept     decimal.Decimal `db:"kept" json:"kept" doc:"What stays with the customer"`
	// What the customer got, and when; empty for not yet.
	SettledAt     *time.Time `db:"settled_at" json:"settled_at"`
	CreditID      int64      `db:"credit_id" json:"credit_id"`
	Credit        string     `db:"credit" json:"credit"`
	MaySettle     bool       `db:"-" json:"may_settle" doc:"The steps are made after which its kind gives money; said of a return alone, not in lists"`
	ReplacementID int64      `db:"replacement_id" json:"replacement_id"`
	Replacement   string     `db:"replacement" json:"replacement"`
	// ArrivalID is the arrival that is open for it; 0 for none.
	ArrivalID int64  `db:"arrival_id" json:"arrival_id"`
	Lines     []Line `db:"-" json:"lines"`

	// Gives, When, Taxed and FeePct are those of its kind when it was announced.
	Gives  string          `db:"gives" json:"gives" enum:"money,the same again,something else,nothing"`
	When   returning.When  `db:"gives_when" json:"-"`
	Taxed  bool            `db:"taxed" json:"-"`
	FeePct decimal.Decimal `db:"fee_pct" json:"-"`
	// GoodsStay tells that its goods stay with the customer, and AsksFound that it is said in what condition they come.
	GoodsStay bool `db:"goods_stay" json:"goods_stay"`
	AsksFound bool `db:"asks_found" json:"asks_found"`

	Inbound states.Inbound `db:"inbound" json:"-"`
	documents.Sorted
}

// money tells whether it gives money, for all of it or for what is left of it.
func (o Return) money() bool { return o.Gives == Money || o.Gives == SomethingElse }

// A Line is goods of one shipment on a return, in base units.
type Line struct {
	ID          int64           `db:"id" json:"id"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"-"`
	Tracking    string          `db:"tracking" json:"tracking"`
	ShipmentID  int64           `db:"shipment_id" json:"shipment_id"`
	Shipment    string          `db:"shipment" json:"shipment"`
	SoldLineID  int64           `db:"sold_line_id" json:"-"`
	LotID       *int64          `db:"lot_id" json:"lot_id"`
	Lot         string          `db:"lot" json:"lot"`
	ExpiresOn   *string         `db:"expires_on" json:"expires_on"`
	Serials     []string        `db:"-" json:"serials" nullable:"false" doc:"The units that were announced"`
	Here        []string        `db:"-" json:"here" nullable:"false" doc:"Its units at the returns corner, not decided on yet"`
	Reason      string          `db:"reason" json:"reason"`
	Said        string          `db:"said" json:"said"`
	Found       string          `db:"found" json:"found" doc:"In what condition they came, as they were found"`
	Quantity    decimal.Decimal `db:"quantity" json:"quantity"`
	Received    decimal.Decimal `db:"received" json:"received"`
	Decided     decimal.Decimal `db:"decided" json:"decided"`
	Kept        decimal.Decimal `db:"kept" json:"kept" doc:"What stays with the customer"`
	Closed      bool            `db:"closed" json:"closed"`
	UnitCost    decimal.Decimal `db:"unit_cost" json:"-"`
	// LocationID is where what was received last came in; 0 for nothing yet.
	LocationID int32           `db:"location_id" json:"-"`
	Decisions  []Decision      `db:"-" json:"decisions" nullable:"false"`
	Units      json.RawMessage `db:"units" json:"-"`
	HereUnits  json.RawMessage `db:"here_units" json:"-"`
	Fates      json.RawMessage `db:"fates" json:"-"`
}

// left is what came and is not decided on.
func (l Line) left() decimal.Decimal { return l.Received.Sub(l.Decided) }

// A Decision is what became of goods that came back.
type Decision struct {
	ID   int64 `json:"id"`
	Fate Fate  `json:"fate" enum:"stock,quarantine,damaged,repair,supplier,scrap"`
	// What its supplier credited for it; empty while that is expected.
	CreditNumber string           `json:"credit_number"`
	Credited     *decimal.Decimal `json:"credited" money:"true"`
	Outbound     string           `json:"outbound" doc:"The order that it goes out with: to its supplier, or repaired to its customer"`
	Quantity     decimal.Decimal  `json:"quantity"`
	Serials      string           `json:"serials"`
	Reason       string           `json:"reason"`
	Value        decimal.Decimal  `json:"value" money:"true" doc:"What it was worth, where it was scrapped or goes back to its supplier"`
	By           string           `json:"by"`
	At           time.Time        `json:"at"`
}

const orderColumns = `
	SELECT n.id, n.number, n.site_id, n.party_id AS customer_id, n.source AS customer, p.email, r.kind_id, k.name AS kind,
	       n.state AS inbound, to_char(n.expected_on, 'YYYY-MM-DD') AS send_by,
	       n.state IN ('placed', 'partly_received') AND n.expected_on < current_date AS late, n.note, r.reason,
	       r.gives, r.gives_when, r.taxed, r.fee_pct, r.goods_stay, n.asks_found,
	       r.announced_at, n.version, l.expected, l.received, l.decided, l.kept, r.settled_at,
	       coalesce(c.id, 0) AS credit_id, coalesce(c.number, '') AS credit,
	       coalesce(r.replacement_id, 0) AS replacement_id, coalesce(x.number, '') AS replacement,
	       coalesce((SELECT a.id FROM arrival_orders o JOIN arrivals a ON a.id = o.arrival_id
	                  WHERE o.order_id = n.id AND a.state = 'open' LIMIT 1), 0) AS arrival_id
	  FROM inbound n JOIN returns r ON r.order_id = n.id JOIN return_kinds k ON k.id = r.kind_id
	  JOIN parties p ON p.id = n.party_id LEFT JOIN invoices c ON c.return_id = n.id
	  LEFT JOIN outbound_orders x ON x.id = r.replacement_id
	  JOIN LATERAL (SELECT sum(quantity - cancelled) AS expected, sum(i.received) AS received,
	       coalesce(sum(y.kept), 0) AS kept,
	       coalesce(sum((SELECT sum(d.quantity) FROM return_decisions d WHERE d.line_id = i.id)), 0) AS decided
	    FROM inbound_lines i LEFT JOIN return_lines y ON y.line_id = i.id WHERE i.order_id = n.id) AS l ON true `

// returned are the returns that come to a site; those that are open, or all.
var returned = documents.List[Return]{
	Query: orderColumns + `
		WHERE n.site_id = $1 AND (NOT $2 OR n.state IN ('draft', 'placed', 'partly_received') OR l.received > l.decided
		   OR r.settled_at IS NULL AND (l.received > 0 OR l.kept > 0) AND r.gives <> 'nothing')`,
	Keys: map[string]documents.SortKey{
		"number":   {Expr: "o.id::numeric", Type: "numeric"},
		"customer": {Expr: "lower(o.customer)", Type: "text"},
		"kind":     {Expr: "lower(o.kind)", Type: "text"},
		"send_by":  {Expr: "o.send_by", Type: "text"},
		"expected": {Expr: "o.expected", Type: "numeric"},
		"received": {Expr: "o.received", Type: "numeric"},
		"decided":  {Expr: "o.decided", Type: "numeric"},
	},
	Finish: func(rows []Return) error {
		for i := range rows {
			rows[i].follow()
		}
		return nil
	},
	Summed: []string{"expected", "received", "decided"},
	Header: []string{"number", "customer", "kind", "state", "send_by", "expected", "received", "decided", "kept", "credit",
		"replacement", "note"},
	Text: func(o Return) []string {
		return []string{o.Number, o.Customer, o.Kind, states.Label(o.State), o.SendBy, o.Expected.String(),
			o.Received.String(), o.Decided.String(), o.Kept.String(), o.Credit, o.Replacement, o.Note}
	},
}

// follow says how far the return is.
func (o *Return) follow() {
	o.State = states.ReturnOf(o.Inbound, o.Kept, o.Received, o.Decided, o.SettledAt != nil)
	o.Lines = []Line{}
}

// Read reads a return with its lines.
func Read(ctx context.Context, q sqlx.QueryerContext, id int64) (o Return, err error) {
	if err = sqlx.GetContext(ctx, q, &o, orderColumns+`WHERE n.id = $1`, id); err != nil {
		return o, documents.Found(err, "return", fmt.Sprint(id))
	}
	o.follow()
	err = sqlx.SelectContext(ctx, q, &o.Lines, `
		SELECT n.id, n.item_id, i.sku, i.description, i.base_unit AS unit, i.whole, i.tracking,
		       coalesce(r.shipment_id, 0) AS shipment_id, coalesce(d.number, '') AS shipment,
		       coalesce(r.sold_line_id, 0) AS sold_line_id, r.lot_id, coalesce(l.code, '') AS lot,
		       to_char(l.expires_on, 'YYYY-MM-DD') AS expires_on, e.name AS reason, r.said, n.quantity, n.received, r.kept, n.closed,
		       coalesce(n.unit_cost, 0) AS unit_cost,
		       coalesce((SELECT sum(quantity) FROM return_decisions WHERE line_id = n.id), 0) AS decided,
		       coalesce((SELECT string_agg(trim_scale(f.quantity) || ' ' || replace(f.found, '_', ' '), ', ' ORDER BY f.found)
		                   FROM (SELECT b.found, sum(m.quantity) AS quantity FROM receipts b JOIN moves m ON m.id = b.move_id
		                          WHERE b.line_id = n.id AND b.undone_at IS NULL AND b.found <> '' GROUP BY 1) AS f), '') AS found,
		       coalesce((SELECT m.to_location FROM receipts b JOIN moves m ON m.id = b.move_id
		                  WHERE b.line_id = n.id AND b.undone_at IS NULL ORDER BY m.id DESC LIMIT 1), 0) AS location_id,
		       coalesce((SELECT json_agg(u.code ORDER BY u.code) FROM return_units x JOIN serials u ON u.id = x.serial_id
		                  WHERE x.line_id = n.id), '[]') AS units,
		       coalesce((SELECT json_agg(u.code ORDER BY u.code) FROM return_units x JOIN serials u ON u.id = x.serial_id
		                   JOIN balances b ON b.serial_id = u.id AND b.quantity > 0 AND b.condition = 'returned'
		                  WHERE x.line_id = n.id), '[]') AS here_units,
		       coalesce((SELECT json_agg(json_build_object('id', y.id, 'outbound', coalesce(z.number, ''), 'fate', y.fate, 'quantity', y.quantity::text, 'serials', y.serials,
		                          'reason', y.reason, 'value', y.value::text,
		                          'credit_number', coalesce(y.credit_number, ''), 'credited', y.credited::text, 'by', w.name, 'at', y.decided_at) ORDER BY y.id)
		                   FROM return_decisions y JOIN people w ON w.id = y.decided_by
		                   LEFT JOIN outbound_orders z ON z.id = y.outbound_id WHERE y.line_id = n.id), '[]') AS fates
		  FROM inbound_lines n JOIN return_lines r ON r.line_id = n.id JOIN items i ON i.id = n.item_id
		  LEFT JOIN shipments d ON d.id = r.shipment_id JOIN return_reasons e ON e.id = r.reason_id
		  LEFT JOIN lots l ON l.id = r.lot_id WHERE n.order_id = $1 ORDER BY n.line`, id)
	if err != nil {
		return o, fmt.Errorf("reading a return's lines: %w", err)
	}
	for i := range o.Lines {
		if err := o.Lines[i].unfold(); err != nil {
			return o, err
		}
	}
	_, ready := o.due()
	o.MaySettle = ready && o.money() && o.SettledAt == nil
	return o, nil
}

// unfold reads what the database listed of a line.
func (l *Line) unfold() error {
	for raw, to := range map[*json.RawMessage]any{&l.Units: &l.Serials, &l.HereUnits: &l.Here, &l.Fates: &l.Decisions} {
		if err := json.Unmarshal(*raw, to); err != nil {
			return fmt.Errorf("reading a return's line: %w", err)
		}
	}
	return nil
}

// units are the serials that it is about, where they are known.
func (d Decision) units() []string {
	if d.Serials == "" {
		return nil
	}
	return strings.Split(d.Serials, ", ")
}
