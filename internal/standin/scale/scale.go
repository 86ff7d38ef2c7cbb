// Package scale stands in for the scale at a bench: it weighs what is put on it, and can
// be told to be off or not to answer, since real ones do both.
package scale

import (
	"context"
	"fmt"
	"net/http"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/standin/control"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Scale is a site's scale.
type Scale struct {
	// VarianceKg is how much it says too much; below zero too little.
	VarianceKg decimal.Decimal `db:"variance_kg" json:"variance_kg"`
	Answers    bool            `db:"answers" json:"answers"`
}

// Reading is what the scale says of a carton.
type Reading struct {
	WeightKg decimal.Decimal `json:"weight_kg"`
}

func read(ctx context.Context, q sqlx.QueryerContext, site int32) (s Scale, err error) {
	err = sqlx.GetContext(ctx, q, &s, `
		SELECT coalesce((SELECT variance_kg FROM scales WHERE site_id = $1), 0) AS variance_kg,
		       coalesce((SELECT answers FROM scales WHERE site_id = $1), true) AS answers`, site)
	if err != nil {
		return s, fmt.Errorf("reading the scale: %w", err)
	}
	return s, nil
}

// Weigh puts a carton on the scale of its site. size is what it is packed into, where that
// is not written down yet.
func Weigh(ctx context.Context, q sqlx.QueryerContext, carton int64, size string) (Reading, error) {
	c, err := cartons.ByID(ctx, q, carton)
	if err != nil {
		return Reading{}, err
	}
	s, err := read(ctx, q, c.SiteID)
	if err != nil {
		return Reading{}, err
	}
	if !s.Answers {
		return Reading{}, refusal.New(refusal.ScaleSilent, "weight_kg",
			"The scale does not answer. Weigh the carton on another one and enter what it says.").Of(refusal.Conflict)
	}
	if size != "" && size != c.Size {
		var more decimal.Decimal
		err := sqlx.GetContext(ctx, q, &more, `
			SELECT coalesce((SELECT tare_kg FROM carton_sizes WHERE code = $1),
			       0) - coalesce((SELECT tare_kg FROM carton_sizes WHERE code = $2), 0)`, size, c.Size)
		if err != nil {
			return Reading{}, fmt.Errorf("reading what a carton weighs: %w", err)
		}
		c.Expected = c.Expected.Add(more)
	}
	return Reading{decimal.Max(c.Expected.Add(s.VarianceKg), decimal.Zero).Round(3)}, nil
}

// Register adds the scale's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/scale", "read-scale", "The scale stand-in of a site", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Scale, error) {
			s, err := read(ctx, db, in.Site)
			s.Answers = s.Answers && r.StandIns
			return s, err
		})
	web.Query(r, http.MethodGet, "/cartons/{id}/weight", "weigh-carton", "What the scale says of a carton",
		web.Everyone,
		func(ctx context.Context, in *struct {
			ID   int64  `path:"id"`
			Size string `query:"size" maxLength:"20" doc:"What it is packed into, where that is not written down yet"`
		}) (Reading, error) {
			if !r.StandIns {
				return Reading{}, refusal.New(refusal.ScaleSilent, "weight_kg",
					"No scale is connected. Weigh the carton and enter what yours says.").Of(refusal.Conflict)
			}
			return Weigh(ctx, db, in.ID, in.Size)
		})
	control.Register(r, "/scale/tell", "tell-scale", "Tell the scale stand-in to be off by so much, or not to answer",
		web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID     int32   `json:"site_id"`
				VarianceKg float64 `json:"variance_kg" minimum:"-100" maximum:"100"`
				Answers    bool    `json:"answers"`
			}
		}) (Scale, error) {
			_, err := tx.ExecContext(ctx, `
				INSERT INTO scales (site_id, variance_kg, answers) VALUES ($1, $2, $3) ON CONFLICT (site_id) DO UPDATE
				   SET variance_kg = $2, answers = $3`,
				in.Body.SiteID, decimal.NewFromFloat(in.Body.VarianceKg).Round(3), in.Body.Answers)
			if err != nil {
				return Scale{}, fmt.Errorf("telling the scale: %w", err)
			}
			tx.NotifySite(in.Body.SiteID, "pack")
			return read(ctx, tx, in.Body.SiteID)
		})
}
