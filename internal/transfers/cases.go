package transfers

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
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
	Value     decimal.Decimal `db:"value" json:"value" doc:"What it was worth, where it is lost or the carrier's"`
	Reason    string          `db:"reason" json:"reason"`
	SettledBy string          `db:"settled_by" json:"settled_by"`
	SettledAt *time.Time      `db:"settled_at" json:"settled_at"`
	documents.Sorted
}

// NewCase is a difference as it is told.
type NewCase struct {
	LineID   int64    `json:"line_id" doc:"The line of the second half that it is about"`
	Kind     CaseKind `json:"kind" enum:"less,more,other_lot,damaged"`
	Lot      string   `json:"lot,omitempty" maxLength:"60" doc:"The lot that was shipped"`
	CameLot  string   `json:"came_lot,omitempty" maxLength:"60" doc:"The lot that came instead, or besides"`
	Quantity string   `json:"quantity" maxLength:"40"`
	Serials  []string `json:"serials,omitempty" maxItems:"200" doc:"The units, where they are known"`
	Note     string   `json:"note,omitempty" maxLength:"200"`
}

// Settling says how a case ends: a case.
type Settling struct {
	Outcome Outcome `json:"outcome" enum:"received,back,lost,carrier"`
	Reason  string  `json:"reason,omitempty" maxLength:"200"`
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
	                  WHERE t.document = d.number AND t.document <> '' AND t.kind = 'ship' AND m.item_id = i.id), 0) AS unit_cost,
	       coalesce(k.outcome, '') AS outcome, k.value, k.reason, coalesce(e.name, '') AS settled_by, k.settled_at
	  FROM transfer_cases k JOIN inbound_lines b ON b.id = k.line_id JOIN inbound_orders n ON n.id = b.order_id
	  JOIN shipments d ON d.id = n.shipment_id JOIN outbound_orders o ON o.id = d.order_id
	  JOIN sites f ON f.id = o.site_id JOIN sites s ON s.id = n.site_id JOIN items i ON i.id = b.item_id
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

// line reads the line of a second half that a case is about.
func (in NewCase) line(ctx context.Context, q sqlx.QueryerContext) (o inbound.Order, l inbound.Line, err error) {
	var order int64
	err = sqlx.GetContext(ctx, q, &order, `
		SELECT l.order_id FROM inbound_lines l JOIN inbound_orders n ON n.id = l.order_id
		 WHERE l.id = $1 AND n.shipment_id IS NOT NULL`, in.LineID)
	if err = documents.Found(err, "line of a transfer", fmt.Sprint(in.LineID)); err != nil {
		return o, l, err
	}
	if o, err = inbound.Read(ctx, q, order); err != nil {
		return o, l, err
	}
	lines, err := inbound.Lines(ctx, q, order)
	at := slices.IndexFunc(lines, func(l inbound.Line) bool { return l.ID == in.LineID })
	if err != nil || at < 0 {
		return o, l, err
	}
	return o, lines[at], nil
}

// read holds what is told against what is in transit.
func (in NewCase) read(ctx context.Context, q sqlx.QueryerContext) (c Case, err error) {
	o, l, err := in.line(ctx, q)
	if err != nil {
		return c, err
	}
	c = Case{LineID: l.ID, ItemID: l.ItemID, SKU: l.SKU, Tracking: l.Tracking, Kind: in.Kind, Serials: in.Serials,
		Transit: o.SourceID, ToSite: o.SiteID, Note: strings.TrimSpace(in.Note)}
	if c.Quantity, err = measure.Parse("quantity", in.Quantity, l.BaseUnit()); err != nil {
		return c, err
	}
	if err := c.readLots(ctx, q, in); err != nil {
		return c, err
	}
	if l.Tracking == receiving.Serial && !c.Quantity.Equal(decimal.NewFromInt(int64(len(in.Serials)))) {
		return c, refusal.New(refusal.SerialsTotal, "serials", "%d serials are entered for %s of %s. Say which units it is about.",
			len(in.Serials), c.Quantity, l.SKU)
	}
	if in.Kind == More {
		return c, nil
	}
	return c, c.within(ctx, q, l)
}

// readLots finds the lots that are named.
func (c *Case) readLots(ctx context.Context, q sqlx.QueryerContext, in NewCase) error {
	find := func(field, code string) (*int64, error) {
		if code == "" {
			return nil, nil
		}
		var id int64
		err := sqlx.GetContext(ctx, q, &id, `SELECT id FROM lots WHERE item_id = $1 AND upper(code) = upper($2)`, c.ItemID, code)
		return &id, documents.FoundOr(err, refusal.New(refusal.LotUnknown, field, "%s is no lot of %s. Read its label again.", code, c.SKU))
	}
	lots := c.Tracking == receiving.Lot || c.Tracking == receiving.LotExpiry
	switch {
	case lots && in.Lot == "" && in.Kind != More:
		return refusal.New(refusal.LotMissing, "lot", "%s is kept by lots. Say which lot it is about.", c.SKU)
	case in.Kind == OtherLot && (in.CameLot == "" || strings.EqualFold(in.CameLot, in.Lot)):
		return refusal.New(refusal.LotMissing, "came_lot", "Say which lot of %s came instead.", c.SKU)
	}
	var err error
	if c.LotID, err = find("lot", in.Lot); err != nil {
		return err
	}
	c.Lot = in.Lot
	c.CameLotID, err = find("came_lot", in.CameLot)
	return err
}

// within refuses a case over more than is in transit of the line and no case is about yet.
func (c Case) within(ctx context.Context, q sqlx.QueryerContext, l inbound.Line) error {
	var told decimal.Decimal
	if err := sqlx.GetContext(ctx, q, &told, `
		SELECT coalesce(sum(quantity), 0) FROM transfer_cases
		 WHERE line_id = $1 AND outcome IS NULL AND kind <> 'more'`, l.ID); err != nil {
		return fmt.Errorf("reading cases: %w", err)
	}
	left := l.Quantity.Sub(l.Received).Sub(told)
	if l.Closed {
		left = decimal.Zero
	}
	if c.Quantity.GreaterThan(left) {
		return refusal.New(refusal.OverTransit, "quantity",
			"%s of %s are in transit on %s that no case is about, not %s. Take a receipt back first if more came than is there.",
			decimal.Max(left, decimal.Zero), c.SKU, l.Order, c.Quantity).Of(refusal.Conflict).With("left", left)
	}
	_, err := c.outOfTransit(ctx, q, ledger.Move{})
	return err
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
		"There is no %s in transit: it came, or was never sent. Look at the delivery note again.", goods).Of(refusal.Conflict)
}

// OpenCase notes a difference. Nothing moves: the goods stay in transit until it is settled.
func OpenCase(ctx context.Context, tx *command.Tx, in NewCase) (Case, error) {
	o, _, err := in.line(ctx, tx)
	if err != nil {
		return Case{}, err
	}
	if err := inbound.Hold(ctx, tx, o.ID); err != nil {
		return Case{}, err
	}
	c, err := in.read(ctx, tx)
	if err != nil {
		return c, err
	}
	var id int64
	err = tx.GetContext(ctx, &id, `
		INSERT INTO transfer_cases (line_id, kind, lot_id, came_lot, quantity, serials, note, opened_by, opened_at)
		VALUES ($1, $2, $3, $4, $5, $6::text[], $7, $8, $9) RETURNING id`, c.LineID, c.Kind, c.LotID, c.CameLotID, c.Quantity,
		append([]string{}, in.Serials...), c.Note, tx.Person.ID, tx.Now)
	if err != nil {
		return c, fmt.Errorf("opening a case: %w", err)
	}
	if c, err = readCase(ctx, tx, id); err != nil {
		return c, err
	}
	c.tell(tx)
	return c, nil
}

// tell tells both sites that a case changed.
func (c Case) tell(tx *command.Tx) {
	for _, site := range []int32{c.FromSite, c.ToSite} {
		tx.NotifySite(site, ledger.Topics(append(topics, "receive", "putaway")...)...)
	}
}

// planCase says what settling a case moves, and refuses what cannot be.
func planCase(ctx context.Context, q sqlx.QueryerContext, id int64, in Settling) (*ledger.Plan, Case, error) {
	c, err := readCase(ctx, q, id)
	if err != nil {
		return nil, c, err
	}
	if err := c.maySettle(ctx, in); err != nil {
		return nil, c, err
	}
	moves, err := c.moves(ctx, q, in.Outcome)
	// What was found may have been received as any goods of the transfer.
	if r := refusal.From(err); r != nil && r.Code == refusal.NotInTransit && c.Kind == Less && in.Outcome == TakenIn {
		moves, err = nil, nil
	}
	if err != nil {
		return nil, c, err
	}
	plan, err := ledger.Describe(ctx, q, moves)
	if err != nil {
		return nil, c, err
	}
	value := c.Quantity.Mul(c.UnitCost).Round(2)
	switch {
	case in.Outcome == Lost || in.Outcome == Carrier:
		plan.Warnings = append(plan.Warnings, fmt.Sprintf("%s of %s worth %s go off the books.", c.Quantity, c.SKU, value.StringFixed(2)))
	case len(moves) == 0 && c.Kind == Less:
		plan.Notes = append(plan.Notes, "Nothing moves: they were received meanwhile.")
	case len(moves) == 0:
		plan.Notes = append(plan.Notes, fmt.Sprintf("Nothing moves: by the books of %s they never left it.", c.From))
	}
	plan.Button = fmt.Sprintf("Settle %s: %s", c.Number, outcomes[in.Outcome])
	return plan, c, nil
}

// outcomes are the words for how a case ends.
var outcomes = map[Outcome]string{TakenIn: "taken in here", Back: "back at the first site", Lost: "lost on the way",
	Carrier: "the carrier's"}

// maySettle refuses a second settling, and what only a lead may, or nobody without a reason.
func (c Case) maySettle(ctx context.Context, in Settling) error {
	if c.SettledAt != nil {
		return refusal.New(refusal.CaseSettled, "", "%s was settled already by %s: %s.", c.Number, c.SettledBy,
			outcomes[c.Outcome]).Of(refusal.Conflict)
	}
	if in.Outcome != Lost && in.Outcome != Carrier {
		return nil
	}
	if c.Kind == More {
		return refusal.New(refusal.BadOutcome, "outcome", "%s is about goods that are here. They are taken in, or go back.", c.Number)
	}
	if people.SaysTooLittle(strings.TrimSpace(in.Reason)) {
		return refusal.New(refusal.ReasonMissing, "reason",
			"Write in a few words how you know; it stands in the trail beside the value that goes off the books.")
	}
	p, err := people.Acting(ctx)
	if err != nil {
		return err
	}
	if leads, err := p.MayLead(); err != nil || leads {
		return err
	}
	return refusal.New(refusal.LeadDecides, "outcome", "A lead decides that goods are lost, since their value goes off the books.").
		Of(refusal.Forbidden)
}

// moves are what settling moves.
func (c Case) moves(ctx context.Context, q sqlx.QueryerContext, how Outcome) ([]ledger.Move, error) {
	var lost int32
	if err := sqlx.GetContext(ctx, q, &lost, `
		SELECT id FROM locations WHERE kind = 'lost' ORDER BY id LIMIT 1`); err != nil {
		return nil, fmt.Errorf("finding lost and found: %w", err)
	}
	dock, err := catalog.OneLocation(ctx, q, c.ToSite, "dock")
	if err != nil {
		return nil, err
	}
	found := ledger.Move{Item: c.ItemID, Lot: c.CameLotID, Quantity: c.Quantity, From: lost, To: dock.ID, Cost: &c.UnitCost}
	switch {
	case c.Kind == More && how == Back:
		return nil, nil
	case c.Kind == More:
		return []ledger.Move{found}, nil
	case how == Back:
		first, err := catalog.OneLocation(ctx, q, c.FromSite, "dock")
		if err != nil {
			return nil, err
		}
		return c.outOfTransit(ctx, q, ledger.Move{To: first.ID})
	case how == Lost || how == Carrier:
		return c.outOfTransit(ctx, q, ledger.Move{To: lost})
	case c.Kind == OtherLot:
		out, err := c.outOfTransit(ctx, q, ledger.Move{To: lost})
		return append(out, found), err
	case c.Kind == Damaged:
		corner, err := catalog.OneLocation(ctx, q, c.ToSite, "damaged")
		if err != nil {
			return nil, err
		}
		return c.outOfTransit(ctx, q, ledger.Move{To: corner.ID, ToState: posting.Damaged})
	}
	return c.outOfTransit(ctx, q, ledger.Move{To: dock.ID})
}

// SettleCase ends a case: its goods are where the outcome says from then on.
func SettleCase(ctx context.Context, tx *command.Tx, id int64, in Settling) (Case, error) {
	c, err := readCase(ctx, tx, id)
	if err != nil {
		return c, err
	}
	if err := inbound.Hold(ctx, tx, c.InboundID); err != nil {
		return c, err
	}
	if err := documents.Change(ctx, tx, documents.InboundOrder, c.InboundID, 0, "settled a case of it"); err != nil {
		return c, err
	}
	plan, c, err := planCase(ctx, tx, id, in)
	if err != nil {
		return c, err
	}
	reason := strings.TrimSpace(in.Reason)
	if moves := plan.MoveList(); len(moves) > 0 {
		if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.SettleDifference, Document: c.Number,
			Note: strings.TrimSuffix(c.Order+", "+outcomes[in.Outcome]+": "+reason, ": ")}, moves); err != nil {
			return c, err
		}
	}
	if len(plan.MoveList()) > 0 {
		if err := c.count(ctx, tx, in.Outcome); err != nil {
			return c, err
		}
	}
	value := decimal.Zero
	if in.Outcome == Lost || in.Outcome == Carrier {
		value = c.Quantity.Mul(c.UnitCost).Round(2)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE transfer_cases SET outcome = $2, reason = $3, value = $4, settled_by = $5, settled_at = $6 WHERE id = $1`,
		id, in.Outcome, reason, value, tx.Person.ID, tx.Now); err != nil {
		return c, fmt.Errorf("settling a case: %w", err)
	}
	if c, err = readCase(ctx, tx, id); err != nil {
		return c, err
	}
	c.tell(tx)
	return c, nil
}

// count lets the line of the second half follow: what is taken in was received, what is not is expected no more.
func (c Case) count(ctx context.Context, tx *command.Tx, how Outcome) error {
	if c.Kind == More {
		return nil
	}
	lines, err := inbound.Lines(ctx, tx, c.InboundID)
	if err != nil {
		return err
	}
	for _, l := range lines {
		if l.ID != c.LineID {
			continue
		}
		if how == TakenIn {
			err = inbound.Count(ctx, tx, inbound.Counted{Line: l.ID, Settlement: l.After(l.Received.Add(c.Quantity))})
		} else {
			err = inbound.Lessen(ctx, tx, l, c.Quantity)
		}
		if err != nil {
			return err
		}
	}
	return inbound.Settle(ctx, tx, c.InboundID)
}
