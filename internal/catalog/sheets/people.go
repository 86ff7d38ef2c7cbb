package sheets

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// staff are the people who work here, with the sites that they may act at.
var staff = Sheet{
	Name: "people", Label: "People", Key: "login",
	Columns: []Column{
		{Name: "login", Label: "Sign-on name", Kind: "text", Needed: true, Help: "Of somebody who works here already."},
		{Name: "name", Label: "Name", Kind: "text", Help: "As it stands in the trail. It stays."},
		{Name: "sites", Label: "May act at", Kind: "text",
			Help: "The names of sites, parted by semicolons; all of them where none is named. What they may do there their role says."},
	},
	query: `
		SELECT p.login, p.name, coalesce((SELECT string_agg(s.name, '; ' ORDER BY s.name) FROM sites s WHERE s.id = ANY(p.sites)),
		       '') AS sites
		  FROM people p WHERE $1 > 0 ORDER BY p.login`,
	check: func(ctx context.Context, f *facts, old, row Row) error {
		switch {
		case old == nil:
			return refusal.New(refusal.PersonUnknown, "login", "Nobody signs on as %s. A lead adds people on the page of that name.", clip(row["login"]))
		case row["name"] != old["name"]:
			return refusal.New(refusal.NameStands, "name", "The name of %s stands in the trail and stays %s.", old["login"], old["name"])
		}
		_, err := siteIDs(ctx, f.q, row["sites"])
		return err
	},
	write: func(ctx context.Context, tx *command.Tx, _ int32, _, row Row) error {
		if err := tx.Person.May([]people.Role{people.Lead}); err != nil {
			return err
		}
		ids, err := siteIDs(ctx, tx, row["sites"])
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE people SET sites = $2 WHERE login = $1`, row["login"], ids); err != nil {
			return fmt.Errorf("writing where %s may act: %w", row["login"], err)
		}
		return nil
	},
}

// siteIDs finds sites by their names.
func siteIDs(ctx context.Context, q sqlx.QueryerContext, names string) ([]int32, error) {
	ids := []int32{}
	for name := range strings.SplitSeq(names, ";") {
		if name = strings.TrimSpace(name); name == "" {
			continue
		}
		var found []int32
		if err := sqlx.SelectContext(ctx, q, &found, `SELECT id FROM sites WHERE upper(name) = upper($1)`, name); err != nil {
			return nil, fmt.Errorf("reading sites: %w", err)
		}
		if len(found) == 0 {
			return nil, refusal.New(refusal.SiteUnknown, "sites", "There is no site %s.", clip(name))
		}
		ids = append(ids, found...)
	}
	return ids, nil
}
