package receive

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/inbound"
	"lanternrow/internal/labels"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/serials"
)

// PostReceipt receives what came. Cartons and pallets without a number get one under the
// company prefix.
func PostReceipt(ctx context.Context, tx *command.Tx, prefix string, id int64, in NewReceipt) (Arrival, error) {
	orders, err := hold(ctx, tx, id, in.Version, "received goods in")
	if err != nil {
		return Arrival{}, err
	}
	plan, err := planReceipt(ctx, tx, id, in, tx.Now)
	if err != nil {
		return Arrival{}, err
	}
	if plan.carton != nil {
		if err := plan.carton.Ensure(ctx, tx, prefix); err != nil {
			return Arrival{}, err
		}
	}
	moves := plan.MoveList()
	if err := ledger.LockStock(ctx, tx, moves); err != nil {
		return Arrival{}, err
	}
	if err := plan.post(ctx, tx, moves); err != nil {
		return Arrival{}, err
	}
	if err := plan.askLabels(ctx, tx); err != nil {
		return Arrival{}, err
	}
	tx.NotifySite(plan.arrival.SiteID, ledger.Topics("receive", "putaway", "row")...)
	for _, order := range orders {
		if err := inbound.Settle(ctx, tx, order); err != nil {
			return Arrival{}, err
		}
	}
	if err := inbound.Follow(ctx, tx, plan.receipts(moves)); err != nil {
		return Arrival{}, err
	}
	return showArrival(ctx, tx, id)
}

// receipts are what came on each line, as it was taken in.
func (p *receiptPlan) receipts(all []ledger.Move) []inbound.Receipt {
	out := make([]inbound.Receipt, len(p.lines))
	for i, l := range p.lines {
		out[i] = inbound.Receipt{Order: p.arrival.orderOf(l.OrderID), Arrival: p.arrival.Number, Line: l.Line, Found: l.found,
			Moves: l.of(all)}
	}
	return out
}

// post posts the moves and notes which line each was for. What a lead accepted stands in
// the trail with its reason, and so in a posting apart; the rest of an order is one posting.
func (p *receiptPlan) post(ctx context.Context, tx *command.Tx, all []ledger.Move) error {
	var notes []string
	by := map[string][]plannedLine{}
	counted := make([]inbound.Counted, len(p.lines))
	if err := p.identify(ctx, tx, all); err != nil {
		return err
	}
	for i, l := range p.lines {
		if by[l.note()] == nil {
			notes = append(notes, l.note())
		}
		by[l.note()] = append(by[l.note()], l)
		counted[i] = inbound.Counted{Line: l.ID, Settlement: l.after}
	}
	for _, note := range notes {
		if err := p.postLines(ctx, tx, note, by[note], all); err != nil {
			return err
		}
	}
	return inbound.Count(ctx, tx, counted...)
}

// of are the line's moves among all.
func (l plannedLine) of(all []ledger.Move) []ledger.Move {
	n := 0
	for _, part := range l.parts {
		n += part.count
	}
	return all[l.first : l.first+n]
}

// note is what the trail says of the line's receipt.
func (l plannedLine) note() string {
	if l.reason == "" {
		return l.Order
	}
	return l.Order + ", accepted: " + l.reason
}

// lots are the lots of all lines' parts, in their order.
func (p *receiptPlan) lots() (lots []catalog.Lot) {
	for _, l := range p.lines {
		for _, part := range l.parts {
			if part.code != "" {
				lots = append(lots, catalog.Lot{Field: part.field, Item: l.item, Code: part.code, Expires: part.expires,
					Supplier: part.supplier})
			}
		}
	}
	return lots
}

// identify writes the lots and units of all lines' moves, as far as they are new, and gives
// the moves their ids.
func (p *receiptPlan) identify(ctx context.Context, tx *command.Tx, all []ledger.Move) error {
	var units []serials.Key
	for _, l := range p.lines {
		for _, part := range l.parts {
			for _, code := range part.serials {
				units = append(units, serials.Key{Item: l.ItemID, Code: code})
			}
		}
	}
	lotIDs, err := catalog.EnsureLots(ctx, tx, p.lots(), tx.Now)
	if err != nil {
		return err
	}
	unitIDs, err := serials.EnsureAll(ctx, tx, units)
	if err != nil {
		return err
	}
	for _, l := range p.lines {
		moves := l.of(all)
		for _, part := range l.parts {
			mine := moves[:part.count]
			moves = moves[part.count:]
			var lot *int64
			if part.code != "" {
				lot, lotIDs = &lotIDs[0], lotIDs[1:]
			}
			for i := range mine {
				mine[i].Lot = lot
				if id, known := unitIDs[serials.Key{Item: l.ItemID, Code: mine[i].SerialCode}]; known {
					mine[i].Serial = &id
				}
			}
		}
	}
	return nil
}

// postLines posts the moves of some lines at once, notes them, and reserves what is meant for
// somebody.
func (p *receiptPlan) postLines(
	ctx context.Context, tx *command.Tx, note string, lines []plannedLine, all []ledger.Move,
) error {
	var moves []ledger.Move
	for _, l := range lines {
		moves = append(moves, l.of(all)...)
	}
	posted, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Receive, Document: p.arrival.Number, Note: note},
		moves)
	if err != nil {
		return err
	}
	var ids []int64
	if err := tx.SelectContext(ctx, &ids, `
		SELECT id FROM moves WHERE posting_id = $1 ORDER BY id`, posted); err != nil {
		return fmt.Errorf("reading a posting: %w", err)
	}
	if err := p.noteReceipts(ctx, tx, lines, ids); err != nil {
		return err
	}
	for _, l := range lines {
		if err := inbound.ReserveMoved(ctx, tx, l.Covers, l.of(all)); err != nil {
			return err
		}
	}
	return nil
}

// noteReceipts notes which line each of the moves was for, and what is inspected.
func (p *receiptPlan) noteReceipts(ctx context.Context, tx *command.Tx, lines []plannedLine, moves []int64) error {
	var parts []plannedPart
	for _, l := range lines {
		parts = append(parts, l.parts...)
	}
	asked, err := p.askInspections(ctx, tx, parts)
	if err != nil {
		return err
	}
	var of []int64
	var inspections []*int64
	var found []string
	for _, l := range lines {
		for _, part := range l.parts {
			var inspection *int64
			if part.inspect {
				inspection, asked = &asked[0], asked[1:]
			}
			for range part.count {
				of, inspections, found = append(of, l.ID), append(inspections, inspection), append(found, string(l.found))
			}
		}
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO receipts (move_id, arrival_id, line_id, inspection_id, found)
		SELECT x.move, $1, x.line, x.inspection, x.found
		  FROM unnest($2::bigint[], $3::bigint[], $4::bigint[], $5::text[]) AS x(move, line, inspection, found)`,
		p.arrival.ID, moves, of, inspections, found)
	if err != nil {
		return fmt.Errorf("noting receipts: %w", err)
	}
	return nil
}

// askInspections sets aside what of these parts is to be inspected, and returns the
// inspections in the order of those parts.
func (p *receiptPlan) askInspections(ctx context.Context, tx *command.Tx, parts []plannedPart) ([]int64, error) {
	var samples, accepts []*int64
	for _, part := range parts {
		if !part.inspect {
			continue
		}
		var sample, accept *int64
		if part.plan != nil {
			sample, accept = &part.plan.Sample, &part.plan.Accept
		}
		samples, accepts = append(samples, sample), append(accepts, accept)
	}
	if len(samples) == 0 {
		return nil, nil
	}
	var ids []int64
	err := tx.SelectContext(ctx, &ids, `
		WITH asked AS (
			INSERT INTO inspections (site_id, sample, accept)
			SELECT $1, sample, accept
			  FROM unnest($2::bigint[], $3::bigint[]) WITH ORDINALITY AS x(sample, accept, n) ORDER BY n
			RETURNING id)
		SELECT id FROM asked ORDER BY id`, p.arrival.SiteID, samples, accepts)
	if err != nil {
		return nil, fmt.Errorf("asking for inspections: %w", err)
	}
	return ids, nil
}

// askLabels puts the labels of what came into the printer's queue: of each item, lot
// and unit, and of the carton or pallet that all of it stands on.
func (p *receiptPlan) askLabels(ctx context.Context, tx *command.Tx) error {
	var goods []labels.Goods
	var contents []string
	for _, l := range p.lines {
		for _, lot := range l.lots {
			goods = append(goods, labels.Goods{Item: l.item, Quantity: lot.quantity, Lot: lot.code,
				Expires: lot.expires, Serials: lot.serials})
		}
		contents = append(contents, fmt.Sprintf("%s × %s", l.here, l.SKU))
	}
	if p.carton != nil && p.carton.New {
		goods = append(goods, labels.Goods{SSCC: p.carton.SSCC, Kind: p.carton.Kind, Contents: strings.Join(contents,
			", ")})
	}
	return labels.Ask(ctx, tx, p.arrival.SiteID, p.arrival.Number, goods)
}

// hold notes the change of an arrival and of its orders, against which another arrival
// may be received this moment.
func hold(ctx context.Context, tx *command.Tx, arrival int64, version int32, what string) (orders []int64, err error) {
	if err := tx.SelectContext(ctx, &orders, `
		SELECT order_id FROM arrival_orders WHERE arrival_id = $1 ORDER BY order_id`, arrival); err != nil {
		return nil, fmt.Errorf("reading an arrival: %w", err)
	}
	if err := inbound.Hold(ctx, tx, orders...); err != nil {
		return nil, err
	}
	if err := documents.Change(ctx, tx, documents.Arrival, arrival, version, what); err != nil {
		return nil, err
	}
	for _, order := range orders {
		if err := documents.Change(ctx, tx, documents.InboundOrder, order, 0, what); err != nil {
			return nil, err
		}
	}
	return orders, nil
}

// lineByID finds a line; there is none when its id is 0.
func lineByID(lines []inbound.Line, id int64) (line inbound.Line) {
	if i := slices.IndexFunc(lines, func(l inbound.Line) bool { return l.ID == id }); i >= 0 {
		line = lines[i]
	}
	return line
}

// makeLot names a lot of the house's own for goods that came without one, by the
// item's rule, with the date that its shelf life leads to. Each answer is another name.
func makeLot(ctx context.Context, tx *command.Tx, arrival int64, item int32) (made MadeLot, err error) {
	a, err := readArrival(ctx, tx, arrival)
	if err != nil {
		return made, err
	}
	if err := tx.At(ctx, a.SiteID); err != nil {
		return made, err
	}
	i, err := catalog.ItemByID(ctx, tx, item)
	if err != nil {
		return made, err
	}
	if i.Tracking != receiving.Lot && i.Tracking != receiving.LotExpiry {
		return made, refusal.New(refusal.LotUnwanted, "item_id", "%s is not kept by lots.", i.SKU)
	}
	var n int64
	if err := tx.GetContext(ctx, &n, `SELECT nextval('made_lots')`); err != nil {
		return made, fmt.Errorf("numbering a lot: %w", err)
	}
	if i.Tracking == receiving.LotExpiry && i.ShelfLife > 0 {
		made.ExpiresOn = tx.Now.AddDate(0, 0, i.ShelfLife).Format(time.DateOnly)
	}
	made.Code, err = receiving.LotRule(i.LotRule).Make("item_id", a.SourceCode, tx.Now, n)
	return made, err
}
