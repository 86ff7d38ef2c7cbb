package audit

import (
	"context"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/papers"

	"github.com/jmoiron/sqlx"
)

// blank is where a figure is written by hand.
const blank = "________"

// printSheet makes the list of the day for paper, in the order of its walk: what is to be counted, kind by kind, and nothing of what
// the books say.
func printSheet(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) ([]byte, error) {
	today, err := readToday(ctx, q, site, now)
	if err != nil {
		return nil, err
	}
	where, err := catalog.SiteByID(ctx, q, site)
	if err != nil {
		return nil, err
	}
	n := papers.Note{Title: "Count sheet", Date: now.UTC().Format("2006-01-02 15:04 MST"), From: where.Name, Order: "Counted by " + blank,
		Foot: []string{"Write down what lies there, without looking up what should."}}
	for _, d := range today.Rows {
		sheet, _, err := readSheet(ctx, q, d.LocationID, d.ItemID)
		if err != nil {
			return nil, err
		}
		g := papers.Group{Heading: d.Bin}
		for _, k := range sheet.Kinds {
			row := papers.Row{SKU: d.SKU, Description: d.Description, Lot: k.Lot, Quantity: blank, Unit: sheet.Unit}
			if k.Carton != "" {
				row.Note = "on pallet or in carton …" + k.Carton[max(0, len(k.Carton)-4):]
			}
			if strings.HasPrefix(sheet.Tracking, "serial") {
				row.Note = strings.TrimSpace(row.Note + " serials:")
			}
			g.Rows = append(g.Rows, row)
		}
		n.Groups = append(n.Groups, g)
	}
	return n.Print()
}
