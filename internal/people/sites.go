package people

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/platform/database"

	"github.com/jmoiron/sqlx"
)

// Sites are those that somebody may act at, by id; all there are where none is named.
type Sites []int32

// Scan reads an array of PostgreSQL.
func (s *Sites) Scan(src any) (err error) {
	*s, err = database.Integers(src)
	return err
}

// Restricted tells whether they are some sites only.
func (s Sites) Restricted() bool { return len(s) > 0 }

// Restricted tells whether the person may act at some sites only.
func (p Person) Restricted() bool { return p.Sites.Restricted() }

// MayActAt refuses somebody who may not act at one of the sites, with where they may.
func (p Person) MayActAt(ctx context.Context, q sqlx.QueryerContext, sites ...int32) error {
	barred := slices.IndexFunc(sites, func(site int32) bool { return site != 0 && !slices.Contains(p.Sites, site) })
	if !p.Restricted() || barred < 0 {
		return nil
	}
	var here string
	var mine []string
	if err := sqlx.GetContext(ctx, q, &here, `SELECT name FROM sites WHERE id = $1`, sites[barred]); err != nil {
		return fmt.Errorf("reading a site: %w", err)
	}
	if err := sqlx.SelectContext(ctx, q, &mine, `SELECT name FROM sites WHERE id = ANY($1) ORDER BY name`,
		[]int32(p.Sites)); err != nil {
		return fmt.Errorf("reading sites: %w", err)
	}
	return refusal.New(refusal.SiteBarred, "", "%s may act at %s, and not at %s. Ask somebody there, or a lead.", p.Name,
		strings.Join(mine, " and "), here).Of(refusal.Forbidden)
}
