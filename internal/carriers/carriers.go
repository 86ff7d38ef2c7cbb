// Package carriers knows those who carry goods: when each collects, what it asks by its
// rates, and what is too heavy for it.
package carriers

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Carrier is one who carries goods.
type Carrier struct {
	Name     string           `db:"name" json:"name"`
	Collects []string         `db:"-" json:"collects" doc:"When it collects, by the site's clock"`
	Times    string           `db:"times" json:"-"`
	Base     decimal.Decimal  `db:"base" json:"base" money:"true"`
	PerKg    decimal.Decimal  `db:"per_kg" json:"per_kg" money:"true"`
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

// List reads all carriers, with when each collects next by the clock of a site.
func List(ctx context.Context, q sqlx.QueryerContext, site int32, now time.Time) ([]Carrier, error) {
	out := []Carrier{}
	if err := sqlx.SelectContext(ctx, q, &out, `
		SELECT name, array_to_string(collects,
		';') AS times, base, per_kg, max_kg, does FROM carriers ORDER BY name`); err != nil {
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
	if err := sqlx.SelectContext(ctx, q, &found, `
		SELECT name, array_to_string(collects,
		';') AS times, base, per_kg, max_kg, does FROM carriers WHERE name = $1`, name); err != nil {
		return Carrier{}, false, fmt.Errorf("reading a carrier: %w", err)
	}
	if len(found) == 0 {
		return Carrier{Name: name}, false, nil
	}
	return found[0], true, nil
}

// Require refuses a carrier that is none of the catalog's; no name is nobody yet.
func Require(ctx context.Context, q sqlx.QueryerContext, name string) error {
	if name == "" {
		return nil
	}
	_, known, err := read(ctx, q, name)
	if err != nil || known {
		return err
	}
	var names []string
	if err := sqlx.SelectContext(ctx, q, &names, `SELECT name FROM carriers ORDER BY name LIMIT 12`); err != nil {
		return fmt.Errorf("reading carriers: %w", err)
	}
	there := "The catalog has none yet: add it there first."
	if len(names) > 0 {
		there = "There are " + strings.Join(names, ", ") + ". Choose one of them, or add it in the catalog first."
	}
	return refusal.New(refusal.CarrierUnknown, "carrier", "%q is no carrier in the catalog. %s", name, there)
}

// Orders is a family of orders by its table.
type Orders string

// The families of orders.
const (
	Inbound  Orders = "inbound_orders"
	Outbound Orders = "outbound_orders"
)

// RequireOn is Require for an order: the carrier that it has, and its party's usual one, may stay
// though the catalog has them no more.
func RequireOn(ctx context.Context, q sqlx.QueryerContext, of Orders, order int64, name string) error {
	var stands []string
	if err := sqlx.SelectContext(ctx, q, &stands, `
		SELECT unnest(ARRAY[o.carrier, p.carrier]) FROM `+string(of)+` o LEFT JOIN parties p ON p.id = o.party_id
		 WHERE o.id = $1`, order); err != nil {
		return fmt.Errorf("reading an order's carrier: %w", err)
	}
	if slices.Contains(stands, name) {
		return nil
	}
	return Require(ctx, q, name)
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
			return rate, refusal.New(refusal.TooHeavy, "carrier",
				"%s carries %s kg in a carton at most, and one weighs %s kg. Part its contents, or choose another "+
					"carrier.", c.Name, c.MaxKg, kg).Of(refusal.Conflict).With("most", c.MaxKg)
		}
		rate = rate.Add(c.Base).Add(c.PerKg.Mul(kg))
	}
	return rate.Round(2), nil
}

// Register adds the carriers' operations.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/carriers", "list-carriers", "Carriers, their rates, and when each collects next",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Carrier, error) {
			return List(ctx, r.Reads, in.Site, r.Runner.Now())
		})
}

// A Collection is once that a carrier collects.
type Collection struct {
	Carrier string    `json:"carrier"`
	At      time.Time `json:"at"`
}

// Coming are the collections of these carriers that are to come on the day of now, the
// first first, by the clock that they were listed with.
func Coming(all []Carrier, now time.Time) []Collection {
	out := []Collection{}
	for _, c := range all {
		for _, text := range c.Collects {
			if at := onDay(text, now.In(c.clock)); at != nil && !at.Before(now) {
				out = append(out, Collection{c.Name, *at})
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Collection) int { return a.At.Compare(b.At) })
	return out
}
