package recall

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/connection"
	"lanternrow/internal/exchange"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"
)

// table is all of a trace as rows: what came, where it is, who got it, what came back and what went otherwise.
func (t Trace) table() exchange.Table {
	out := exchange.Table{Header: []string{"what", "sku", "lot", "serials", "quantity", "site", "place", "carton", "condition", "order",
		"with", "party", "email", "at"}}
	day := func(at time.Time) string { return at.UTC().Format(time.RFC3339) }
	for _, r := range t.Came {
		out.Rows = append(out.Rows, []string{"came", r.SKU, r.Lot, r.Serials, r.Quantity.String(), r.Site, "", "", "", r.Order, r.Arrival,
			r.Supplier, "", day(r.At)})
	}
	for _, r := range t.Here {
		out.Rows = append(out.Rows, []string{"here", r.SKU, r.Lot, r.Serials, r.Quantity.String(), r.Site, r.Location, r.Carton,
			r.Condition, r.Order, "", "", "", ""})
	}
	for _, r := range t.Went {
		out.Rows = append(out.Rows, []string{"went", r.SKU, r.Lot, r.Serials, r.Quantity.String(), "", "", r.Cartons, "", r.Order, r.Shipment,
			r.Customer, r.Email, day(r.At)})
	}
	for _, r := range t.Back {
		out.Rows = append(out.Rows, []string{"back", r.SKU, r.Lot, r.Serials, r.Quantity.String(), "", "", "", "", "", r.Return, r.Customer,
			"", day(r.At)})
	}
	for _, r := range t.Gone {
		out.Rows = append(out.Rows, []string{r.How, r.SKU, r.Lot, r.Serials, r.Quantity.String(), "", "", "", "", "", r.Document, r.Person,
			"", day(r.At)})
	}
	return out
}

// paper is a trace on paper, the sums first.
func (t Trace) paper(now time.Time) ([]byte, error) {
	n := papers.Note{Title: "Recall", Number: t.number(), From: "all sites", Order: t.From, Date: now.UTC().Format("2006-01-02 15:04 MST")}
	sums := papers.Group{Heading: "What became of it"}
	for _, g := range t.Goods {
		for _, part := range g.parts() {
			sums.Rows = append(sums.Rows, papers.Row{SKU: g.SKU, Lot: g.Lot, Description: part.words, Quantity: part.quantity, Unit: g.Unit})
		}
	}
	n.Groups = []papers.Group{sums, {Heading: "Where it is"}, {Heading: "Who got it"}}
	for _, r := range t.Here {
		n.Groups[1].Rows = append(n.Groups[1].Rows, papers.Row{SKU: r.SKU, Lot: r.Lot, Quantity: r.Quantity.String(), Note: r.Serials,
			Description: strings.Join(strings.Fields(strings.Join([]string{r.Site, r.Location, r.Carton, r.Condition, r.Order}, " ")), " ")})
	}
	for _, r := range t.Went {
		n.Groups[2].Rows = append(n.Groups[2].Rows, papers.Row{SKU: r.SKU, Lot: r.Lot, Quantity: r.Quantity.String(),
			Description: r.Customer, Note: strings.TrimSpace(fmt.Sprintf("with %s on %s %s", r.Shipment, r.At.UTC().Format(time.DateOnly),
				r.Serials))})
	}
	if !t.Whole {
		n.Foot = append(n.Foot, "The numbers do not add up: see by how much above.")
	}
	return n.Print()
}

func (t Trace) number() string {
	if t.Recall != nil {
		return t.Recall.Number
	}
	return ""
}

type part struct{ words, quantity string }

// parts are the sums of goods that are not nought, in words.
func (g Goods) parts() (out []part) {
	for _, p := range []struct {
		words string
		part  interface {
			IsZero() bool
			String() string
		}
	}{{"came in", g.Came}, {"turned up", g.Found}, {"went to customers", g.Shipped}, {"came back from them", g.CameBack},
		{"went back to the supplier", g.SentBack}, {"scrapped", g.Scrapped}, {"lost", g.Lost}, {"stand with us", g.Stands},
		{"customers have", g.WithCustomers}, {"stand too many (too few below nought)", g.Differs}} {
		if !p.part.IsZero() {
			out = append(out, part{p.words, p.part.String()})
		}
	}
	return out
}

// Mail tells each customer who has some of the goods of a recall, and has an address for mail, what it got, from the
// site that it got them from first; it returns how many were told, and who was not.
func Mail(ctx context.Context, tx *command.Tx, id int64) (Told, error) {
	tx.Nowhere()
	told := Told{Unaddressed: []string{}}
	r, err := readRecall(ctx, tx, id)
	if err != nil {
		return told, err
	}
	t, err := readTrace(ctx, tx, OfRecall, id)
	if err != nil {
		return told, err
	}
	for _, customer := range t.byCustomer() {
		first := customer[0]
		if first.Email == "" {
			told.Unaddressed = append(told.Unaddressed, first.Customer)
			continue
		}
		if err := connection.Post(ctx, tx, first.SiteID, connection.Letter{Recipient: first.Email, Subject: r.Number + ": please set goods aside",
			Document: r.Number, Text: letter(r, customer)}); err != nil {
			return told, err
		}
		told.Mailed++
	}
	return told, nil
}

// Told says who was told of a recall.
type Told struct {
	Mailed      int      `json:"mailed"`
	Unaddressed []string `json:"unaddressed" nullable:"false" doc:"Customers without an address for mail"`
}

// byCustomer are the goods that each customer got, customer by customer.
func (t Trace) byCustomer() (out [][]Sent) {
	at := map[string]int{}
	for _, s := range t.Went {
		i, known := at[s.Customer]
		if !known {
			i, at[s.Customer] = len(out), len(out)
			out = append(out, nil)
		}
		out[i] = append(out[i], s)
	}
	return out
}

func letter(r Recall, goods []Sent) string {
	lines := []string{"To " + goods[0].Customer, "", "Please set these goods aside and do not use them: " + r.Reason + ".", ""}
	for _, s := range goods {
		words := fmt.Sprintf("%s of %s", s.Quantity, s.SKU)
		if s.Lot != "" {
			words += ", lot " + s.Lot
		}
		if s.Serials != "" {
			words += ", serial " + s.Serials
		}
		lines = append(lines, fmt.Sprintf("%s, delivered with %s on %s", words, s.Shipment, s.At.UTC().Format(time.DateOnly)))
	}
	return strings.Join(append(lines, "", "Our number for this is "+r.Number+"."), "\n")
}
