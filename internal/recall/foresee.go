package recall

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Foresight is what a recall would hold, before it is begun.
type Foresight struct {
	Notes  []string `json:"notes" nullable:"false"`
	Button string   `json:"button"`
}

// foresee says what would be held, and who would be stopped.
func foresee(ctx context.Context, q sqlx.QueryerContext, in Begun) (Foresight, error) {
	out := Foresight{Notes: []string{}}
	if _, err := in.read(ctx, q); err != nil {
		return out, err
	}
	t, err := readTrace(ctx, q, in.Source, in.ID)
	if err != nil {
		return out, err
	}
	out.Button = "Begin a drill with " + t.From
	if in.Drill {
		out.Notes = append(out.Notes, "Nothing is held. The clock runs until the drill is ended, and its page is kept.")
		return out, nil
	}
	total := decimal.Zero
	for _, r := range t.Here {
		total = total.Add(r.Quantity)
	}
	out.Button = fmt.Sprintf("Hold %s of %s", total, t.From)
	out.Notes = append(out.Notes, fmt.Sprintf("%s stand with us at %s, and go no step further from then on.", total, t.places()))
	if orders := t.orders(); len(orders) > 0 {
		out.Notes = append(out.Notes, "What is reserved of it for "+strings.Join(orders, ", ")+
			" is given up, for other goods to be planned; what is in cartons or on rounds is stopped where it is.")
	}
	return out, nil
}

// places are the sites that goods stand at, in words.
func (t Trace) places() string {
	var out []string
	for _, r := range t.Here {
		site := r.Site
		if site == "" {
			site = "between two sites"
		}
		if !slices.Contains(out, site) {
			out = append(out, site)
		}
	}
	if len(out) == 0 {
		return "no site"
	}
	return strings.Join(out, " and ")
}

// orders are those that have some of the goods.
func (t Trace) orders() (out []string) {
	for _, r := range t.Here {
		for _, o := range strings.Fields(r.Order) {
			if !slices.Contains(out, o) {
				out = append(out, o)
			}
		}
	}
	return out
}
