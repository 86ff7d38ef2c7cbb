package demo

import (
	"context"
	"fmt"

	"lanternrow/internal/inbound"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/returns"
	"lanternrow/internal/station/receive"

	"github.com/shopspring/decimal"
)

// returns sends goods back: one return is announced, one is here and half decided, one is settled with a credit note,
// and for one the same again is on order; one is exchanged, one to be repaired, one goes back to its supplier, one came
// without a paper, and of one the customer keeps the goods.
func (s *story) returns() {
	s.sheet("return-kinds", []string{"name", "approved", "goods_stay", "gives_when", "fee_pct", "within_days"},
		[]string{"Not worth sending", "yes", "yes", "announced", "50", "60"})
	sold := s.returnable(10)
	if s.err != nil {
		return
	}
	s.announce("Credit", 5, "ordered for two nights and played one", sold[0])
	half := s.announce("Credit", 1, "", sold[1])
	half = s.sentBack(half)
	s.verdict(half, returns.ToStock, "1", "")
	whole := s.sentBack(s.announce("Refused delivery", 2, "nobody was there to sign for it", sold[2]))
	whole = s.verdict(whole, returns.ToStock, whole.Received.String(), "")
	as(s, "office", func(ctx context.Context, tx *command.Tx) (returns.Return, error) {
		return returns.Settle(ctx, tx, whole.ID, returns.Settling{Version: whole.Version})
	})
	s.sentBack(s.announce("Same again", 1, "", sold[3]))
	s.exchange(s.sentBack(s.announce("Something else", 3, "", sold[4])))
	broken := s.sentBack(s.announce("Repair", 1, "", sold[5]))
	s.verdict(broken, returns.ToRepair, broken.Received.String(), "the catch does not hold")
	faulty := s.sentBack(s.announce("Credit", 1, "", sold[6]))
	s.verdict(faulty, returns.ToSupplier, "1", "bad from the works")
	stays := s.announce("Not worth sending", 2, "half the price for the scratches, as agreed on the telephone", sold[7])
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (returns.Return, error) {
		return returns.Approve(ctx, tx, stays.ID, stays.Version)
	})
	s.announce("Not worth sending", 1, "it hums, and nobody wants to send it by sea", sold[8])
	s.someBack(s.announce("Credit", 4, "the other one follows", sold[9]), "1")
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (returns.Return, error) {
		return returns.CreateUnpapered(ctx, tx, returns.Unpapered{SiteID: site, CustomerID: s.customer(1), KindID: s.kind("Without paper"),
			Reason: "the driver took them along, and no note is with them",
			Lines:  []returns.UnpaperedLine{{ItemID: s.item("TP-B50"), Quantity: "3", ReasonID: 5}}})
	})
}

// exchange gives tape instead of what came back.
func (s *story) exchange(r returns.Return) {
	as(s, "office", func(ctx context.Context, tx *command.Tx) (returns.Return, error) {
		return returns.Settle(ctx, tx, r.ID, returns.Settling{Version: r.Version,
			Instead: []invoicing.SaleLine{{ItemID: s.item("TP-B50"), Quantity: "2"}}})
	})
}

// kind is a kind of return.
func (s *story) kind(name string) (id int32) {
	if s.err == nil {
		s.err = s.db.GetContext(s.ctx, &id, `SELECT id FROM return_kinds WHERE name = $1`, name)
	}
	return id
}

// returnable is goods of so many shipments that may come back, a few of each, that are told apart by nothing.
func (s *story) returnable(n int) (out []returns.Sold) {
	var numbers []string
	if s.err == nil {
		s.err = s.db.SelectContext(s.ctx, &numbers, `
			SELECT number FROM shipments WHERE site_id = $1 AND state <> 'taken_back' AND shipped_at > $2 ORDER BY id LIMIT 40`, site, s.end.AddDate(0, 0, -7))
	}
	for _, number := range numbers {
		if len(out) == n || s.err != nil {
			return out
		}
		var found []returns.Sold
		found, s.err = returns.Find(s.ctx, s.db, number, s.clock)
		for _, g := range found {
			if g.Tracking == "none" && g.Whole && g.Returnable.GreaterThan(decimal.NewFromInt(2)) {
				out = append(out, g)
				break
			}
		}
	}
	if s.err == nil && len(out) < n {
		s.err = fmt.Errorf("of %d shipments %d have goods to be returned", n, len(out))
	}
	return out
}

// announce announces a return of two of some goods.
func (s *story) announce(kind string, reason int32, note string, g returns.Sold) returns.Return {
	in := returns.New{SiteID: site, KindID: s.kind(kind), Note: note, Lines: []returns.NewLine{{ShipmentID: g.ShipmentID,
		LineID: g.LineID, LotID: g.LotID, Quantity: "2", ReasonID: reason}}}
	return as(s, "office", func(ctx context.Context, tx *command.Tx) (returns.Return, error) {
		return returns.Create(ctx, tx, in)
	})
}

// sentBack receives all of a return at the returns corner.
func (s *story) sentBack(r returns.Return) returns.Return {
	if s.err != nil {
		return r
	}
	return s.someBack(r, r.Lines[0].Quantity.String())
}

// someBack receives so many of a return at the returns corner.
func (s *story) someBack(r returns.Return, quantity string) returns.Return {
	if s.err != nil {
		return r
	}
	a := as(s, "receiver", func(ctx context.Context, tx *command.Tx) (receive.Arrival, error) {
		return receive.OpenArrival(ctx, tx, receive.NewArrival{OrderIDs: []int64{r.ID}, DockID: s.location("Returns corner")})
	})
	if s.err != nil {
		return r
	}
	s.book("receiver", a, nil, receive.ReceiptLine{LineID: r.Lines[0].ID, Quantity: quantity,
		Found: inbound.Opened})
	return s.returned(r)
}

func (s *story) verdict(r returns.Return, fate returns.Fate, quantity, reason string) returns.Return {
	if s.err != nil {
		return r
	}
	in := returns.Verdict{Version: r.Version, LineID: r.Lines[0].ID, Fate: fate, Quantity: quantity, Reason: reason}
	return as(s, "receiver", func(ctx context.Context, tx *command.Tx) (returns.Return, error) {
		return returns.Decide(ctx, tx, r.ID, in)
	})
}

// returned reads a return as it is now.
func (s *story) returned(r returns.Return) returns.Return {
	return as(s, "office", func(ctx context.Context, tx *command.Tx) (returns.Return, error) {
		return returns.Read(ctx, tx, r.ID)
	})
}
