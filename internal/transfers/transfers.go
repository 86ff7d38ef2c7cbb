// Package transfers is the commercial side of transfers between two sites of ours. A transfer has
// two halves, each with papers of its own: an outbound order at the first site, and, for each
// shipment of it, an inbound order at the second. In between its goods are in transit: on neither
// site's shelves, and still ours. The floor ships the one and receives the other as it does for
// anybody.
package transfers

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/carriers"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

var topics = []string{"transfers", "orders", "row"}

// New is a transfer as it is written.
type New struct {
	FromSiteID int32  `json:"from_site_id"`
	ToSiteID   int32  `json:"to_site_id"`
	WantedOn   string `json:"wanted_on" doc:"When it leaves, YYYY-MM-DD"`
	ExpectedOn string `json:"expected_on" doc:"When it is due at the other site, YYYY-MM-DD"`
	Carrier    string `json:"carrier,omitempty" maxLength:"80" doc:"A carrier of the catalog; our own vehicle without"`
	Reason     string `json:"reason,omitempty" maxLength:"200"`
	Release    bool   `json:"release,omitempty" doc:"Release it at once; it is on hold without"`
	// Sure are the questions that are answered with yes.
	Sure  refusal.Sure `json:"sure,omitempty"`
	Lines []NewLine    `json:"lines" minItems:"1" maxItems:"500"`
}

// NewLine is a line as it is written.
type NewLine struct {
	ItemID   int32  `json:"item_id"`
	PackID   int32  `json:"pack_id,omitempty" doc:"The quantity counts these packs; base units without"`
	Quantity string `json:"quantity" maxLength:"40"`
	// LotID and Serials choose what goes; the withdrawal rule does without.
	LotID   *int64   `json:"lot_id,omitempty" doc:"The lot that goes; the withdrawal rule chooses without"`
	Serials []string `json:"serials,omitempty" maxItems:"500" doc:"The units that go, where they are known one by one; any without"`
	Covers  int64    `json:"covers,omitempty" doc:"The line of an order at the other site that it is meant for: what comes is reserved for it"`
}

// An Outlook is what a transfer would do at both ends, before it is written.
type Outlook struct {
	Lines    []OutlookLine `json:"lines"`
	Warnings []string      `json:"warnings"`
}

// OutlookLine is a line of an Outlook, in base units.
type OutlookLine struct {
	SKU           string          `json:"sku"`
	Unit          string          `json:"unit"`
	Quantity      decimal.Decimal `json:"quantity"`
	FromFree      decimal.Decimal `json:"from_free" doc:"What is free where it leaves"`
	FromFreeAfter decimal.Decimal `json:"from_free_after"`
	ToFree        decimal.Decimal `json:"to_free" doc:"What is free where it goes, with what is on order"`
	ToFreeAfter   decimal.Decimal `json:"to_free_after"`
}

// written is a transfer that was read and found right.
type written struct {
	New
	from             catalog.Site
	wanted, expected time.Time
	items            []catalog.Item
	quantities       []decimal.Decimal
	// chosen is, of each line, what exactly goes; nothing where that is left to the withdrawal rule.
	chosen [][]chosenStock
}

// read reads what was written, and refuses what cannot be.
func (in New) read(ctx context.Context, q sqlx.QueryerContext, now time.Time) (w written, err error) {
	w.New = in
	if in.FromSiteID == in.ToSiteID {
		return w, refusal.New(refusal.SameSite, "to_site_id",
			"The goods are at that site already. Choose another, or move them between its bins.")
	}
	if w.from, err = catalog.SiteByID(ctx, q, in.FromSiteID); err != nil {
		return w, err
	}
	if _, err = catalog.SiteByID(ctx, q, in.ToSiteID); err != nil {
		return w, err
	}
	if err := w.readDays(now); err != nil {
		return w, err
	}
	if err := carriers.Require(ctx, q, in.Carrier); err != nil {
		return w, err
	}
	return w, w.readLines(ctx, q)
}

func (w *written) readDays(now time.Time) (err error) {
	if w.wanted, err = documents.Day("wanted_on", w.WantedOn); err != nil {
		return err
	}
	if w.expected, err = documents.Day("expected_on", w.ExpectedOn); err != nil {
		return err
	}
	if w.expected.Before(w.wanted) {
		return refusal.New(refusal.BadRange, "expected_on",
			"It leaves on %s and cannot be there on %s. Enter the day on which it arrives.", w.WantedOn, w.ExpectedOn)
	}
	return w.Sure.Ask(w.WantedOn < now.UTC().Format(time.DateOnly), refusal.Question(refusal.DayPast, "wanted_on",
		"%s is past. Enter the day on which it leaves, or say that it is meant so.", w.WantedOn))
}

// readLines reads items and quantities. An item must be allowed at both sites.
func (w *written) readLines(ctx context.Context, q sqlx.QueryerContext) error {
	if len(w.Lines) == 0 {
		return refusal.New(refusal.LinesMissing, "lines", "The transfer has no lines. Find an item that is to go.")
	}
	ids := make([]int32, len(w.Lines))
	for i, l := range w.Lines {
		ids[i] = l.ItemID
	}
	here, err := catalog.ReadLineItems(ctx, q, ids, w.FromSiteID)
	if err != nil {
		return err
	}
	there, err := catalog.ReadLineItems(ctx, q, ids, w.ToSiteID)
	if err != nil {
		return err
	}
	for i, l := range w.Lines {
		field := fmt.Sprintf("lines[%d]", i)
		item, err := here.Line(field, i, l.ItemID)
		if err != nil {
			return err
		}
		for _, site := range []catalog.LineItems{here, there} {
			if err := site.Allowed(field+".item_id", item); err != nil {
				return err
			}
		}
		quantity, err := item.Count(field, l.PackID, l.Quantity)
		if err != nil {
			return err
		}
		if err := w.mayCover(ctx, q, field, l); err != nil {
			return err
		}
		chosen, err := l.choose(ctx, q, field, w.from, item, quantity)
		if err != nil {
			return err
		}
		w.items, w.quantities, w.chosen = append(w.items, item), append(w.quantities, quantity), append(w.chosen, chosen)
	}
	return nil
}

// preview says what is free at both ends now, and then.
func preview(ctx context.Context, q sqlx.QueryerContext, in New, now time.Time) (Outlook, error) {
	out := Outlook{Lines: []OutlookLine{}, Warnings: []string{}}
	w, err := in.read(ctx, q, now)
	if err != nil {
		return out, err
	}
	ids := make([]int32, len(w.items))
	for i, item := range w.items {
		ids[i] = item.ID
	}
	from, err := ledger.FiguresFor(ctx, q, ids, w.FromSiteID)
	if err != nil {
		return out, err
	}
	to, err := ledger.FiguresFor(ctx, q, ids, w.ToSiteID)
	if err != nil {
		return out, err
	}
	gone := map[int32]decimal.Decimal{}
	for i, item := range w.items {
		here, there := from[item.ID].Free.Sub(gone[item.ID]), to[item.ID].Free.Add(to[item.ID].OnOrder).Add(gone[item.ID])
		gone[item.ID] = gone[item.ID].Add(w.quantities[i])
		l := OutlookLine{SKU: item.SKU, Unit: item.BaseUnit, Quantity: w.quantities[i], FromFree: here,
			FromFreeAfter: here.Sub(w.quantities[i]), ToFree: there, ToFreeAfter: there.Add(w.quantities[i])}
		if l.FromFreeAfter.IsNegative() {
			out.Warnings = append(out.Warnings, fmt.Sprintf("%s of %s are free at %s. The other %s go once there are more.",
				decimal.Max(here, decimal.Zero), item.SKU, w.from.Name, l.FromFreeAfter.Neg()))
		}
		out.Lines = append(out.Lines, l)
	}
	return out, nil
}

// Create writes a transfer, on hold or released at once.
func Create(ctx context.Context, tx *command.Tx, in New) (Order, error) {
	w, err := in.read(ctx, tx, tx.Now)
	if err != nil {
		return Order{}, err
	}
	transit, err := inTransit(ctx, tx)
	if err != nil {
		return Order{}, err
	}
	state := states.OnHold
	if in.Release {
		state = states.Released
	}
	id, err := outbound.Create(ctx, tx, outbound.New{Kind: outbound.Transfer, SiteID: in.FromSiteID, ToSite: in.ToSiteID,
		DestinationID: transit, State: state, Change: "wrote it", WantedOn: w.wanted, DueOn: &w.expected,
		Carrier: in.Carrier})
	if err != nil {
		return Order{}, err
	}
	lines := make([]outbound.NewLine, len(w.items))
	for i, item := range w.items {
		lines[i] = outbound.NewLine{Item: item.ID, Quantity: w.quantities[i]}
	}
	ids, err := outbound.AddLines(ctx, tx, id, lines)
	if err != nil {
		return Order{}, err
	}
	if err := w.promise(ctx, tx, ids); err != nil {
		return Order{}, err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO transfer_orders (order_id, reason) VALUES ($1, $2)`, id, strings.TrimSpace(in.Reason)); err != nil {
		return Order{}, fmt.Errorf("writing a transfer: %w", err)
	}
	o, err := readOrder(ctx, tx, id)
	o.tell(tx)
	return o, err
}

// tell tells both sites that the transfer changed.
func (o Order) tell(tx *command.Tx) {
	for _, site := range []int32{o.FromSiteID, o.ToSiteID} {
		tx.NotifySite(site, append(topics, "pick")...)
	}
}

// inTransit is where goods between two sites are, which is made when it is first needed.
func inTransit(ctx context.Context, tx *command.Tx) (id int32, err error) {
	const read = `SELECT id FROM locations WHERE kind = 'transit' ORDER BY id LIMIT 1`
	err = tx.GetContext(ctx, &id, read)
	if errors.Is(err, sql.ErrNoRows) {
		err = tx.GetContext(ctx, &id, `INSERT INTO locations (kind, code) VALUES ('transit', 'Between sites') RETURNING id`)
	}
	if err != nil {
		return 0, fmt.Errorf("reading where goods in transit are: %w", err)
	}
	return id, nil
}

// Release lets a transfer onto the floor, and PutOnHold takes it off again while nothing of it is
// on a round, in a carton or shipped.
func Release(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	return move(ctx, tx, id, version, "released it", states.OnHold, states.Released)
}

// PutOnHold puts a transfer on hold again.
func PutOnHold(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	return move(ctx, tx, id, version, "put it on hold", states.Released, states.OnHold)
}

func move(
	ctx context.Context, tx *command.Tx, id int64, version int32, change string, from, to states.Outbound,
) (Order, error) {
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, version, change); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	switch {
	case err != nil:
		return o, err
	case o.FirstState != from:
		return o, refusal.New(refusal.OrderNotReleased, "", "%s is %s, not %s.", o.Number, states.Label(o.State),
			states.Label(from)).Of(refusal.Conflict)
	case to == states.OnHold && o.onTheFloor().IsPositive():
		return o, refusal.New(refusal.OrderOnTheFloor, "",
			"%s is on the floor already: %s are on rounds, in cartons or shipped. Dissolve its round first.", o.Number,
			o.onTheFloor()).Of(refusal.Conflict)
	}
	if err := outbound.Move(ctx, tx, id, from, to); err != nil {
		return o, err
	}
	o.tell(tx)
	return readOrder(ctx, tx, id)
}

// CancelOpen cancels what of a transfer is not shipped.
func CancelOpen(ctx context.Context, tx *command.Tx, id int64, version int32) (Order, error) {
	if err := reservation.HoldFloor(ctx, tx, id); err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.OutboundOrder, id, version, "cancelled what is open"); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, id)
	if err != nil {
		return o, err
	}
	if o.FirstState != states.OnHold && o.FirstState != states.Released {
		return o, refusal.New(refusal.OrderOver, "", "%s is %s: nothing of it is open.", o.Number,
			states.Label(o.State)).Of(refusal.Conflict)
	}
	if _, err := reservation.CancelOpen(ctx, tx, id); err != nil {
		return o, err
	}
	if err := outbound.Settle(ctx, tx, id); err != nil {
		return o, err
	}
	o.tell(tx)
	return readOrder(ctx, tx, id)
}
