package orders

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/states"

	"github.com/jmoiron/sqlx"
)

// Standing is how many open orders of a state the same thing keeps, or nothing does.
type Standing struct {
	State     states.Outbound `db:"state" json:"state" enum:"quote,on_hold,released"`
	BlockedBy string          `db:"blocked_by" json:"blocked_by" enum:",carton_weight,restock,bin_short,lines_short"`
	Orders    int             `db:"orders" json:"orders"`
	Late      int             `db:"late" json:"late"`
	// Due are those of them that are wanted today.
	Due int `db:"due" json:"due"`
	// First are some of their numbers, those wanted first.
	First   []string `db:"-" json:"first"`
	Numbers string   `db:"numbers" json:"-"`
}

// shownOf is how many orders a standing names.
const shownOf = 5

func readStanding(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Standing, error) {
	out := []Standing{}
	err := sqlx.SelectContext(ctx, q, &out, `
		SELECT state, blocked_by, count(*) AS orders, count(*) FILTER (WHERE late) AS late,
		       count(*) FILTER (WHERE wanted_on = to_char(current_date, 'YYYY-MM-DD')) AS due,
		       array_to_string((array_agg(number ORDER BY wanted_on, number))[1:$2], ' ') AS numbers
		  FROM (SELECT `+columns+` WHERE o.site_id = $1 AND o.state IN ('quote', 'on_hold', 'released')) AS t
		 GROUP BY 1, 2 ORDER BY array_position(ARRAY['quote', 'on_hold', 'released'], state), blocked_by`, site, shownOf)
	if err != nil {
		return nil, fmt.Errorf("reading how orders stand: %w", err)
	}
	for i := range out {
		out[i].First = strings.Fields(out[i].Numbers)
	}
	return out, nil
}

// Counts are how many orders there are of each kind.
type Counts struct {
	Quotes   int `json:"quotes"`
	OnHold   int `json:"on_hold"`
	Released int `json:"released"`
	Late     int `json:"late"`
	Today    int `json:"today"`
	Blocked  int `json:"blocked"`
	// Standing is what they are the sums of.
	Standing []Standing `json:"standing"`
}

func countOrders(ctx context.Context, q sqlx.QueryerContext, site int32) (c Counts, err error) {
	c.Standing, err = readStanding(ctx, q, site)
	for _, s := range c.Standing {
		c.add(s)
	}
	return c, err
}

func (c *Counts) add(s Standing) {
	c.Late += s.Late
	if s.BlockedBy != "" {
		c.Blocked += s.Orders
	}
	if s.State == states.Quote {
		c.Quotes += s.Orders
		return
	}
	c.Today += s.Due
	if s.State == states.OnHold {
		c.OnHold += s.Orders
	} else {
		c.Released += s.Orders
	}
}
