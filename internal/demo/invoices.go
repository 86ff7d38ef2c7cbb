package demo

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/purchasing"

	"github.com/shopspring/decimal"
)

// owed is an order that came and is not invoiced yet.
type owed struct {
	order purchasing.Order
	due   time.Time
}

// invoicedAfter is how long after its goods a supplier's invoice comes.
const invoicedAfter = 6 * 24 * time.Hour

// owe waits for the invoice of what came.
func (s *story) owe(o purchasing.Order) { s.owes = append(s.owes, owed{o, s.clock.Add(invoicedAfter)}) }

// suppliersInvoices enters those that are due: of three one asks a little more or less than was agreed, and of five one comes with
// a carrier's for freight that nobody had agreed.
func (s *story) suppliersInvoices() {
	waiting := s.owes[:0]
	for _, w := range s.owes {
		if w.due.After(s.clock) {
			waiting = append(waiting, w)
			continue
		}
		s.invoiced++
		s.invoice(w.order, []string{"1", "1.015", "0.98"}[s.invoiced%3])
		if s.invoiced%5 == 0 {
			s.freight(w.order)
		}
	}
	s.owes = waiting
}

// invoice is a supplier's, over all of an order, at its prices times a factor.
func (s *story) invoice(o purchasing.Order, factor string) {
	in := purchasing.NewSupplierInvoice{InvoicePaper: s.paper("S")}
	for _, l := range o.Lines {
		price := l.Price.Mul(decimal.RequireFromString(factor)).RoundFloor(2)
		in.Lines = append(in.Lines, purchasing.NewSupplierInvoiceLine{LineID: l.ID, Quantity: l.Quantity.String(),
			Price: price.String(), Reason: "Their new price list"})
	}
	as(s, "lead", func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		return purchasing.EnterSupplierInvoice(ctx, tx, o.ID, in)
	})
}

// freight is a carrier's invoice, of a twentieth of what the goods cost.
func (s *story) freight(o purchasing.Order) {
	as(s, "office", func(ctx context.Context, tx *command.Tx) (purchasing.Order, error) {
		return purchasing.EnterFreight(ctx, tx, o.ID, purchasing.NewFreightInvoice{InvoicePaper: s.paper("F"),
			Carrier: "Brook & Daughter Carriers", Amount: o.Value.Div(decimal.NewFromInt(20)).RoundFloor(2).String()})
	})
}

// paper is the head of an invoice that came today.
func (s *story) paper(series string) purchasing.InvoicePaper {
	return purchasing.InvoicePaper{Number: fmt.Sprintf("%s-%d", series, 4100+7*s.invoiced), InvoicedOn: s.clock.Format(time.DateOnly)}
}
