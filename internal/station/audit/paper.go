package audit

import (
	"context"
	"fmt"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/papers"

	"github.com/jmoiron/sqlx"
)

// blank is where a figure is written by hand.
const blank = "________"

// toCount is an item in a bin that is counted on paper; without an item it is whatever else lies in the bin.
type toCount struct {
	location int32
	bin      string
	item     *int32
	sku      string
	called   string
}

// printToday makes the list of the day for paper, in the order of its walk.
func printToday(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) ([]byte, error) {
	today, err := ReadToday(ctx, q, site, now)
	if err != nil {
		return nil, err
	}
	rows := make([]toCount, len(today.Rows))
	for i, d := range today.Rows {
		rows[i] = toCount{d.LocationID, d.Bin, &d.ItemID, d.SKU, d.Description}
	}
	return printRows(ctx, q, site, "Counted by "+blank, now, rows)
}

// printSheet makes a count sheet for paper, or what of it is left to a team, in the order of its walk.
func printSheet(ctx context.Context, q sqlx.QueryerContext, id int64, team int, now time.Time) ([]byte, error) {
	s, err := readSheet(ctx, q, id)
	if err != nil {
		return nil, err
	}
	if team < 0 || team > s.Teams {
		return nil, refusal.New(refusal.NumberRange, "team", "%s has %d teams, and no team %d.", s.Number, s.Teams, team)
	}
	var rows []toCount
	for _, r := range s.Rows {
		if (team == 0 || r.Team == team) && r.State == states.SheetLineOpen {
			rows = append(rows, toCount{r.LocationID, r.Bin, r.ItemID, r.SKU, r.Description})
		}
	}
	order := s.Number + ", " + s.Described
	if team > 0 {
		order += fmt.Sprintf(", team %d", team)
	}
	return printRows(ctx, q, s.SiteID, order+", counted by "+blank+" at "+blank, now, rows)
}

// printRows prints what is to be counted, kind by kind, and nothing of what the books say.
func printRows(ctx context.Context, q sqlx.QueryerContext, site int32, order string, now time.Time, rows []toCount) ([]byte, error) {
	where, err := catalog.SiteByID(ctx, q, site)
	if err != nil {
		return nil, err
	}
	n := papers.Note{Title: "Count sheet", Date: now.UTC().Format("2006-01-02 15:04 MST"), From: where.Name, Order: order,
		Foot: []string{"Write down what lies there and when, without looking up what should."}}
	for _, r := range rows {
		if last := len(n.Groups) - 1; last < 0 || n.Groups[last].Heading != r.bin {
			n.Groups = append(n.Groups, papers.Group{Heading: r.bin})
		}
		g := &n.Groups[len(n.Groups)-1]
		if r.item == nil {
			g.Rows = append(g.Rows, papers.Row{Description: "Anything else that lies there", Quantity: blank})
			continue
		}
		entry, _, err := readEntry(ctx, q, r.location, *r.item)
		if err != nil {
			return nil, err
		}
		g.Rows = append(g.Rows, entry.rows(r)...)
	}
	return n.Print()
}

// rows are the lines in which an item is written down, one for each kind.
func (e Entry) rows(r toCount) (out []papers.Row) {
	for _, k := range e.Kinds {
		row := papers.Row{SKU: r.sku, Description: r.called, Lot: k.Lot, Quantity: blank, Unit: e.Unit}
		if k.Carton != "" {
			row.Note = "on pallet or in carton …" + k.Carton[max(0, len(k.Carton)-4):]
		}
		if k.Condition != "" && k.Condition != posting.Good {
			row.Note = strings.TrimSpace(row.Note + " " + states.Label(k.Condition))
		}
		if strings.HasPrefix(e.Tracking, "serial") {
			row.Note = strings.TrimSpace(row.Note + " serials:")
		}
		out = append(out, row)
	}
	return out
}
