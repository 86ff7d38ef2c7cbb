package audit

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"

	"github.com/jmoiron/sqlx"
)

// AccuracyReport is how right the books were found in a time, as far as what was counted is a fair sample.
type AccuracyReport struct {
	From   string                    `json:"from"`
	To     string                    `json:"to"`
	All    []counting.Accuracy       `json:"all" nullable:"false" doc:"Over everything that was counted: one, or none where nothing was"`
	Groups []counting.Accuracy       `json:"groups" nullable:"false" doc:"Of each part, in its order"`
	Causes []counting.Cause          `json:"causes" nullable:"false" doc:"How many of the errors are laid to each kind of move, the most first"`
	Allow  map[counting.Class]string `json:"allow" doc:"By how many per cent a count of each class may differ at the site; empty for all sites"`
}

// sampled is a count as it tells of accuracy.
type sampled struct {
	Site   string
	SiteID int32 `db:"site_id"`
	Zone   string
	ItemID int32 `db:"item_id"`
	Person string
	At     time.Time
	Wrong  bool
	Book   float64
	Off    float64
}

// sampledQuery reads the counts of a site ($1; 0 for all) that were made in a time: what each was off by from what
// should have been there. A count that others made again is in it once, as the last of them found it. Person is who put
// goods there last before it.
const sampledQuery = `
	SELECT x.name AS site, c.site_id, ` + catalog.AreaOf + ` AS zone, c.item_id, coalesce(w.name, '') AS person, c.counted_at AS at,
	       c.off > 0 AS wrong, (c.expected * c.cost)::float8 AS book, (c.off * c.cost)::float8 AS off
	  FROM counts c JOIN sites x ON x.id = c.site_id JOIN locations p ON p.id = c.location_id LEFT JOIN zones z ON z.id = p.zone_id
	  LEFT JOIN LATERAL (
	       SELECT e.name FROM moves m JOIN postings t ON t.id = m.posting_id JOIN people e ON e.id = t.person_id
	        WHERE m.to_location = c.location_id AND m.item_id = c.item_id AND m.id <= c.as_of AND t.kind <> 'count'
	        ORDER BY m.id DESC LIMIT 1) AS w ON true
	 WHERE ($1 = 0 OR c.site_id = $1) AND c.state IN ('settled', 'counted') AND c.counted_at >= $2 AND c.counted_at < $3
	 ORDER BY c.counted_at`

// readAccuracy reads how right the books of a site were found between two days, both of them in it, part by part.
func readAccuracy(ctx context.Context, q sqlx.QueryerContext, site int32, by, from, to string, now time.Time) (AccuracyReport, error) {
	r := AccuracyReport{All: []counting.Accuracy{}, Groups: []counting.Accuracy{}, Causes: []counting.Cause{}, Allow: map[counting.Class]string{}}
	first, end, err := days(from, to, now)
	if err != nil {
		return r, err
	}
	r.From, r.To = first.Format(time.DateOnly), end.AddDate(0, 0, -1).Format(time.DateOnly)
	var rows []sampled
	if err := sqlx.SelectContext(ctx, q, &rows, sampledQuery, site, first, end); err != nil {
		return r, fmt.Errorf("reading what was counted: %w", err)
	}
	at := map[int32]classes{}
	if by == "class" {
		if at, err = classesAt(ctx, q, rows, now); err != nil {
			return r, err
		}
	}
	groups, all := make([]counting.Sample, len(rows)), make([]counting.Sample, len(rows))
	for i, row := range rows {
		all[i] = counting.Sample{Wrong: row.Wrong, Book: row.Book, Off: row.Off}
		groups[i] = all[i]
		groups[i].Group = row.group(by, at)
	}
	if by != "month" && by != "week" {
		slices.SortStableFunc(groups, func(a, b counting.Sample) int { return strings.Compare(a.Group, b.Group) })
	}
	r.All, r.Groups = counting.Accuracies(all), counting.Accuracies(groups)
	return r, r.explain(ctx, q, site)
}

// explain adds what made the books wrong, and what is allowed.
func (r *AccuracyReport) explain(ctx context.Context, q sqlx.QueryerContext, site int32) error {
	past, err := readPast(ctx, q, site)
	if err != nil {
		return err
	}
	r.Causes = counting.Causes(past, counting.Common)
	if site == 0 {
		return nil
	}
	s, err := readSettings(ctx, q, site)
	r.Allow = map[counting.Class]string{counting.A: s.AllowA.String(), counting.B: s.AllowB.String(), counting.C: s.AllowC.String()}
	return err
}

// days are the instants between which two days lie: a year back to today where none are named.
func days(from, to string, now time.Time) (first, end time.Time, err error) {
	today := now.UTC().Truncate(24 * time.Hour)
	first, end = today.AddDate(-1, 0, 0), today
	if from != "" {
		if first, err = documents.Day("from", from); err != nil {
			return first, end, err
		}
	}
	if to != "" {
		if end, err = documents.Day("to", to); err != nil {
			return first, end, err
		}
	}
	switch {
	case end.After(today):
		return first, end, refusal.New(refusal.DayFar, "to", "%s has not come yet.", end.Format(time.DateOnly))
	case first.After(end):
		return first, end, refusal.New(refusal.DayPast, "to", "%s is before %s. Name the first day first.", end.Format(time.DateOnly),
			first.Format(time.DateOnly))
	}
	return first, end.AddDate(0, 0, 1), nil
}

// group is the part that a count tells of.
func (s sampled) group(by string, at map[int32]classes) string {
	switch by {
	case "site":
		return s.Site
	case "zone":
		return orDash(s.Zone)
	case "person":
		return orDash(s.Person)
	case "class":
		return string(at[s.SiteID].of(s.ItemID))
	case "week":
		year, week := s.At.UTC().ISOWeek()
		return fmt.Sprintf("%d-W%02d", year, week)
	}
	return s.At.UTC().Format("2006-01")
}

func orDash(s string) string {
	if s == "" {
		return "–"
	}
	return s
}

// classesAt are the classes of the items at each site that was counted.
func classesAt(ctx context.Context, q sqlx.QueryerContext, rows []sampled, now time.Time) (map[int32]classes, error) {
	out := map[int32]classes{}
	for _, row := range rows {
		if out[row.SiteID] != nil {
			continue
		}
		s, err := readSettings(ctx, q, row.SiteID)
		if err != nil {
			return nil, err
		}
		if out[row.SiteID], err = classesOf(ctx, q, row.SiteID, s, now); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// table writes the report into a file.
func (r AccuracyReport) table() exchange.Table {
	t := exchange.Table{Header: []string{"part", "counted", "right", "bins_pct", "bins_low_pct", "bins_high_pct", "value_pct", "value_low_pct",
		"value_high_pct", "book_value", "off_value"}}
	percent := func(share float64) string { return fmt.Sprintf("%.2f", 100*share) }
	for _, g := range append(r.Groups[:len(r.Groups):len(r.Groups)], r.All...) {
		name := g.Group
		if name == "" {
			name = "all"
		}
		t.Rows = append(t.Rows, []string{name, fmt.Sprint(g.Counted), fmt.Sprint(g.Right), percent(g.Bins.Share), percent(g.Bins.Low),
			percent(g.Bins.High), percent(g.Value.Share), percent(g.Value.Low), percent(g.Value.High), fmt.Sprintf("%.2f", g.Book),
			fmt.Sprintf("%.2f", g.Off)})
	}
	return t
}
