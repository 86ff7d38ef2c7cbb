// Package carrier stands in for those who carry goods to customers: each names a rate and
// a tracking number, turns away what is too heavy, and can be told not to answer, to
// answer oddly or to refuse, since real ones do.
package carrier

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Carrier is one who carries goods.
type Carrier struct {
	Name     string           `db:"name" json:"name"`
	Collects []string         `db:"-" json:"collects" doc:"When it collects, by the site's clock"`
	Times    string           `db:"times" json:"-"`
	Base     decimal.Decimal  `db:"base" json:"base"`
	PerKg    decimal.Decimal  `db:"per_kg" json:"per_kg"`
	MaxKg    *decimal.Decimal `db:"max_kg" json:"max_kg" doc:"The most that it carries in one carton"`
	Does     string           `db:"does" json:"does" enum:"takes,silent,odd,refuses"`
	// Next is when it collects next.
	Next *time.Time `db:"-" json:"next"`

	clock *time.Location
}

// LastOn is its last collection on the day of now, by the clock that it was listed with;
// nil when it makes none.
func (c Carrier) LastOn(now time.Time) (last *time.Time) {
	now = now.In(c.clock)
	for _, text := range c.Collects {
		if t := onDay(text, now); t != nil && (last == nil || t.After(*last)) {
			last = t
		}
	}
	return last
}

// onDay is a time of day on the day of now.
func onDay(text string, now time.Time) *time.Time {
	at, err := time.Parse("15:04", strings.TrimSpace(text))
	if err != nil {
		return nil
	}
	t := time.Date(now.Year(), now.Month(), now.Day(), at.Hour(), at.Minute(), 0, 0, now.Location())
	return &t
}

// What a stand-in does.
const (
	Takes   = "takes"
	Silent  = "silent"
	Odd     = "odd"
	Refuses = "refuses"
)

// A Quote is what a carrier asks for a delivery.
type Quote struct {
	Rate decimal.Decimal
	// Tracking is empty when the carrier gave none; Said is why.
	Tracking, Said string
}

// List reads all carriers, with when each collects next by the clock of a site.
func List(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) ([]Carrier, error) {
	out := []Carrier{}
	if err := sqlx.SelectContext(ctx, q, &out, `SELECT name, array_to_string(collects, ';') AS times, base, per_kg, max_kg, does FROM carriers ORDER BY name`); err != nil {
		return nil, fmt.Errorf("reading carriers: %w", err)
	}
	clock, err := catalog.ClockOf(ctx, q, site)
	if err != nil {
		return nil, err
	}
	for i := range out {
		out[i].Collects = []string{}
		if out[i].Times != "" {
			out[i].Collects = strings.Split(out[i].Times, ";")
		}
		out[i].clock = clock
		out[i].Next = next(out[i].Collects, now.In(clock))
	}
	return out, nil
}

// next is the first of these times of day that is to come.
func next(times []string, now time.Time) *time.Time {
	var first *time.Time
	for _, text := range times {
		t := onDay(text, now)
		if t == nil {
			continue
		}
		if t.Before(now) {
			*t = t.AddDate(0, 0, 1)
		}
		if first == nil || t.Before(*first) {
			first = t
		}
	}
	return first
}

// read reads a carrier; one that is not known is somebody without a system to ask.
func read(ctx context.Context, q sqlx.QueryerContext, name string) (Carrier, bool, error) {
	var found []Carrier
	if err := sqlx.SelectContext(ctx, q, &found, `SELECT name, array_to_string(collects, ';') AS times, base, per_kg, max_kg, does FROM carriers WHERE name = $1`, name); err != nil {
		return Carrier{}, false, fmt.Errorf("reading a carrier: %w", err)
	}
	if len(found) == 0 {
		return Carrier{Name: name}, false, nil
	}
	return found[0], true, nil
}

// Rate is what a carrier asks for cartons of these weights; nil when it has no rates. One
// that is too heavy for it is refused.
func Rate(ctx context.Context, q sqlx.QueryerContext, name string, kilos []decimal.Decimal) (*decimal.Decimal, error) {
	c, known, err := read(ctx, q, name)
	if err != nil || !known {
		return nil, err
	}
	rate, err := c.rate(kilos)
	if err != nil {
		return nil, err
	}
	return &rate, nil
}

func (c Carrier) rate(kilos []decimal.Decimal) (decimal.Decimal, error) {
	rate := decimal.Zero
	for _, kg := range kilos {
		if c.MaxKg != nil && kg.GreaterThan(*c.MaxKg) {
			return rate, refusal.New("too_heavy", "carrier", "%s carries %s kg in a carton at most, and one weighs %s kg. Part its contents, or choose another carrier.", c.Name, c.MaxKg, kg).Of(refusal.Conflict).With("most", c.MaxKg)
		}
		rate = rate.Add(c.Base).Add(c.PerKg.Mul(kg))
	}
	return rate.Round(2), nil
}

// Ask books a delivery with its carrier. A carrier that refuses it stops it; one that does
// not answer, or that nobody understands, does not: the number is asked for again later.
func Ask(ctx context.Context, tx *command.Tx, name string, kilos []decimal.Decimal) (Quote, error) {
	c, known, err := read(ctx, tx, name)
	if err != nil || !known {
		return Quote{}, err
	}
	rate, err := c.rate(kilos)
	if err != nil {
		return Quote{}, err
	}
	switch c.Does {
	case Silent:
		return Quote{Rate: rate, Said: name + " does not answer"}, nil
	case Odd:
		return Quote{Rate: rate, Said: name + " answers what nobody understands: <html>200 OK</html>"}, nil
	case Refuses:
		return Quote{}, refusal.New("carrier_refuses", "carrier", "%s says: no collection from this address today. Choose another carrier, or ask again later.", name).Of(refusal.Conflict)
	}
	var n int64
	if err := tx.GetContext(ctx, &n, `SELECT nextval('tracking_numbers')`); err != nil {
		return Quote{}, fmt.Errorf("numbering a delivery: %w", err)
	}
	var letters strings.Builder
	for _, word := range strings.Fields(name) {
		if r := word[0]; r >= 'A' && r <= 'Z' {
			letters.WriteByte(r)
		}
	}
	return Quote{Rate: rate, Tracking: fmt.Sprintf("%s%08d", letters.String(), n)}, nil
}

// Tell sets what a stand-in does.
func Tell(ctx context.Context, tx *command.Tx, name, does string) error {
	result, err := tx.ExecContext(ctx, `UPDATE carriers SET does = $2 WHERE name = $1`, name, does)
	if err != nil {
		return fmt.Errorf("telling a carrier: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return documents.Missing("carrier", name)
	}
	tx.Touch("dispatch")
	return nil
}

// Register adds the carriers' operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/carriers", "list-carriers", "Carriers, their rates, and when each collects next", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Carrier, error) {
			return List(ctx, db, in.Site, r.Runner.Now())
		})
	web.Command(r, "/carriers/tell", "tell-carrier", "Tell a carrier's stand-in what to do", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32  `json:"site_id"`
				Name   string `json:"name" maxLength:"80"`
				Does   string `json:"does" enum:"takes,silent,odd,refuses"`
			}
		}) ([]Carrier, error) {
			if err := Tell(ctx, tx, in.Body.Name, in.Body.Does); err != nil {
				return nil, err
			}
			return List(ctx, tx, in.Body.SiteID, tx.Now)
		})
}
