package pick

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/cartonization"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Confirm ends a round that was walked on paper, in one step: every stop was made as it
// was planned, but for those that differ. Goods go into cartons of their orders as these are
// proposed, those that are open first; what was not taken stays open.
func Confirm(ctx context.Context, tx *command.Tx, prefix string, id int64, in Confirmation) (Round, error) {
	r, err := readReplanning(ctx, tx, id, "confirmed it from paper", Start)
	if err != nil {
		return r, err
	}
	var takes []paperTake
	for _, s := range r.Stops {
		if s.State != states.StopOpen {
			continue
		}
		t := paperTake{stop: s}
		if t.taken, t.codes, t.lot, err = in.of(ctx, tx, r.SiteID, s); err != nil {
			return r, err
		}
		takes = append(takes, t)
	}
	boxes, err := r.boxes(ctx, tx, takes)
	if err != nil {
		return r, err
	}
	for _, t := range takes {
		if t.taken.IsPositive() {
			if err := t.stop.checkUnits(ctx, tx, t.codes); err != nil {
				return r, err
			}
			if t.stop, err = t.stop.withLot(ctx, tx, t.lot); err != nil {
				return r, err
			}
			if r, err = t.pack(ctx, tx, prefix, r, boxes[t.stop.OrderID]); err != nil {
				return r, err
			}
		}
		if err := t.leaveShort(ctx, tx, r); err != nil {
			return r, err
		}
	}
	return Stage(ctx, tx, id, true)
}

// paperTake is what was taken at a stop by the paper, and which units or lot.
type paperTake struct {
	stop  RoundStop
	taken decimal.Decimal
	codes []string
	lot   scannedLot
}

// box is a carton of an order: the one that is open, or one that is opened with the first thing
// that goes in. room is what still goes in of each item; nil is anything.
type box struct {
	carton int64
	size   string
	room   map[string]decimal.Decimal
}

// boxes are the cartons that the takes of each order go into: the one that is open, or those
// that are proposed for them; one for all where nothing can be proposed.
func (r Round) boxes(ctx context.Context, q sqlx.QueryerContext, takes []paperTake) (map[int64][]*box, error) {
	out := map[int64][]*box{}
	for _, c := range r.Cartons {
		if c.State == states.CartonOpen && c.OrderID != nil {
			out[*c.OrderID] = []*box{{carton: c.ID}}
		}
	}
	counts := map[int64]map[int32]decimal.Decimal{}
	for _, t := range takes {
		if out[t.stop.OrderID] != nil || !t.taken.IsPositive() {
			continue
		}
		if counts[t.stop.OrderID] == nil {
			counts[t.stop.OrderID] = map[int32]decimal.Decimal{}
		}
		of := counts[t.stop.OrderID]
		of[t.stop.ItemID] = of[t.stop.ItemID].Add(t.taken)
	}
	for order, of := range counts {
		answer, err := cartons.Propose(ctx, q, of)
		if err != nil && refusal.From(err) == nil {
			return nil, err
		}
		out[order] = proposedBoxes(answer, takes, order)
	}
	return out, nil
}

// proposedBoxes are a box for each carton that is proposed, and the last of them for what the
// proposal did not count. What is measured goes into one in one piece.
func proposedBoxes(answer cartonization.Answer, takes []paperTake, order int64) []*box {
	measured := map[string]decimal.Decimal{}
	for _, t := range takes {
		if t.stop.OrderID == order && !t.stop.Whole {
			measured[t.stop.SKU] = measured[t.stop.SKU].Add(t.taken)
		}
	}
	var out []*box
	for _, c := range answer.Cartons {
		b := &box{size: c.Size, room: map[string]decimal.Decimal{}}
		for _, part := range c.Things {
			b.room[part.Key] = decimal.NewFromInt(int64(part.Count))
			if piece, known := measured[part.Key]; known {
				b.room[part.Key] = piece
			}
		}
		out = append(out, b)
	}
	if len(out) == 0 {
		return []*box{{}}
	}
	return out
}

// takes is how much of an item goes in, of so much.
func (b *box) takes(sku string, quantity decimal.Decimal) decimal.Decimal {
	if b.room == nil {
		return quantity
	}
	return decimal.Min(b.room[sku], quantity)
}

// pack takes what was taken at a stop into the boxes of its order, one after another.
func (t paperTake) pack(ctx context.Context, tx *command.Tx, prefix string, r Round, boxes []*box) (Round, error) {
	left, codes := t.taken, t.codes
	for i, b := range boxes {
		part := b.takes(t.stop.SKU, left)
		if i == len(boxes)-1 {
			part = left
		}
		if !part.IsPositive() {
			continue
		}
		if b.carton == 0 {
			var err error
			if r, err = b.open(ctx, tx, prefix, r, t.stop.OrderID); err != nil {
				return r, err
			}
		}
		var units []string
		if len(codes) > 0 {
			n := int(part.IntPart())
			units, codes = codes[:n:n], codes[n:]
		}
		if err := pickStop(ctx, tx, r, t.stop, part, units, b.carton, time.Time{}); err != nil {
			return r, err
		}
		if b.room != nil {
			b.room[t.stop.SKU] = b.room[t.stop.SKU].Sub(part)
		}
		left = left.Sub(part)
	}
	return r, nil
}

// open opens a new carton for an order, of the size that is proposed.
func (b *box) open(ctx context.Context, tx *command.Tx, prefix string, r Round, order int64) (Round, error) {
	made, err := cartons.MakeLabels(ctx, tx, r.SiteID, 1, prefix)
	if err != nil {
		return r, err
	}
	b.carton = made[0].ID
	if r, err = OpenCarton(ctx, tx, r.ID, made[0].SSCC, order); err != nil {
		return r, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE carton_work SET size_code = $2 WHERE carton_id = $1`, b.carton, b.size); err != nil {
		return r, fmt.Errorf("noting a carton's size: %w", err)
	}
	return r, nil
}

// leaveShort leaves open what was not taken.
func (t paperTake) leaveShort(ctx context.Context, tx *command.Tx, r Round) error {
	s := t.stop
	short := s.Quantity.Sub(s.Picked).Sub(s.Short).Sub(t.taken)
	if !short.IsPositive() {
		return nil
	}
	s.Picked = s.Picked.Add(t.taken)
	return s.foundShort(ctx, tx, r, decimal.Zero, short)
}

// of is what was taken at a stop by the paper, and which units or lot.
func (c Confirmation) of(
	ctx context.Context, tx *command.Tx, site int32, s RoundStop,
) (taken decimal.Decimal, codes []string, lot scannedLot, err error) {
	taken, field, said := s.left(), "differing", ""
	for i, d := range c.Differing {
		if d.StopID != s.ID {
			continue
		}
		field = fmt.Sprintf("differing[%d]", i)
		if taken, err = s.quantity(field+".taken", d.Picked); err != nil {
			return taken, nil, lot, err
		}
		codes, said = d.Serials, d.Lot
	}
	if !taken.IsPositive() {
		return taken, nil, lot, nil
	}
	if codes, err = s.writtenUnits(field, taken, codes); err != nil || !s.AskLot {
		return taken, codes, lot, err
	}
	if said == "" {
		return taken, nil, lot, refusal.New(refusal.LotMissing, field+".lot",
			"Stop %d: write the lot of the %s %s down that were taken in %s. It is asked on the way out.", s.Seq, taken,
			s.SKU, s.Bin)
	}
	lot, err = checkLot(ctx, tx, site, s, said, tx.Now)
	return taken, codes, lot, refusal.At(err, field+".lot")
}

// writtenUnits are the serials that were written down of what was taken. Where just those units
// lie there that are to be taken, they were.
func (s RoundStop) writtenUnits(field string, taken decimal.Decimal, codes []string) ([]string, error) {
	n := int(taken.IntPart())
	if s.unitwise() && len(codes) == 0 && n == len(s.Serials) {
		codes = s.Serials
	}
	if s.unitwise() && len(codes) != n {
		return nil, refusal.New(refusal.SerialsTotal, field+".serials",
			"Stop %d: write the serials of the %s %s down that were taken in %s.", s.Seq, taken, s.SKU, s.Bin)
	}
	return codes, nil
}

// pickList is a round on paper: its stops in the order of the walk, to be ticked off.
func pickList(ctx context.Context, q sqlx.QueryerContext, id int64, now time.Time) (string, []byte, error) {
	r, err := readRound(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	var site string
	if err := sqlx.GetContext(ctx, q, &site, `SELECT name FROM sites WHERE id = $1`, r.SiteID); err != nil {
		return "", nil, fmt.Errorf("reading a site: %w", err)
	}
	g := papers.Group{Heading: fmt.Sprintf("%s, %g m", measure.Count(len(r.Stops), "stop"), r.Metres)}
	for _, s := range r.Stops {
		row := papers.Row{SKU: s.Bin, Description: s.Description, Quantity: s.Quantity.String(), Unit: s.Unit,
			Note: fmt.Sprintf("%d.  %s for %s    taken: ________", s.Seq, s.SKU, s.Order)}
		if s.Lot != nil {
			row.Lot = "lot " + *s.Lot
		}
		if s.AskLot {
			row.Note += "    lot: ________________"
		}
		if len(s.Units) > 0 {
			row.Note += "    serial " + strings.Join(s.Serials, ", ")
		} else if s.unitwise() {
			row.Note += "    serials: ________________"
		}
		g.Rows = append(g.Rows, row)
	}
	var numbers []string
	for _, o := range r.Orders {
		numbers = append(numbers, o.Number)
	}
	pdf, err := papers.Note{Title: "Pick list", Number: r.Number, Order: strings.Join(numbers, ", "),
		Date: now.UTC().Format(time.DateOnly), From: site, To: r.Picker, Groups: []papers.Group{g}}.Print()
	return r.Number, pdf, err
}
