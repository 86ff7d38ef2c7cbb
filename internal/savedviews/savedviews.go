// Package savedviews keeps a person's views of lists: filters and columns under a name.
package savedviews

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

// A View is a list's filters and columns, as the interface understands them.
type View struct {
	Name     string            `db:"name" json:"name" maxLength:"40"`
	Settings map[string]string `db:"-" json:"settings"`
	Raw      []byte            `db:"settings" json:"-"`
}

// most is how many views one person keeps of one list.
const most = 40

// Register adds the operations on kept views.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/views/{list}", "list-views", "The views of a list that the person who asks keeps",
		web.Everyone,
		func(ctx context.Context, in *struct {
			List string `path:"list" maxLength:"40"`
		}) ([]View, error) {
			person, err := people.Acting(ctx)
			if err != nil {
				return nil, err
			}
			return list(ctx, r.Reads, person.ID, in.List)
		})
	web.Command(r, "/views/{list}/save", "save-view",
		"Save a view of a list under a name, instead of one of that name", web.Everyone,
		func(ctx context.Context, tx *command.Tx, in *struct {
			List string `path:"list" maxLength:"40"`
			Body View
		}) ([]View, error) {
			return Keep(ctx, tx, in.List, in.Body)
		})
	web.Command(r, "/views/{list}/drop", "drop-view", "Give a kept view up", web.Everyone,
		func(ctx context.Context, tx *command.Tx, in *struct {
			List string `path:"list" maxLength:"40"`
			Body struct {
				Name string `json:"name" maxLength:"40"`
			}
		}) ([]View, error) {
			tx.Nowhere()
			if _, err := tx.ExecContext(ctx, `
				DELETE FROM saved_views WHERE person_id = $1 AND list = $2 AND name = $3`,
				tx.Person.ID, in.List, in.Body.Name); err != nil {
				return nil, fmt.Errorf("dropping a view: %w", err)
			}
			return list(ctx, tx, tx.Person.ID, in.List)
		})
}

// Keep keeps a view of the person who acts.
func Keep(ctx context.Context, tx *command.Tx, name string, v View) ([]View, error) {
	if v.Name = strings.TrimSpace(v.Name); v.Name == "" {
		return nil, refusal.New(refusal.NameMissing, "name", "Give the view a name to find it by.")
	}
	tx.Nowhere()
	raw, err := json.Marshal(v.Settings)
	if err != nil {
		return nil, fmt.Errorf("keeping a view: %w", err)
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO saved_views (person_id, list, name, settings) VALUES ($1, $2, $3, $4)
		ON CONFLICT (person_id, list, name) DO UPDATE SET settings = $4`, tx.Person.ID, name, v.Name, raw)
	if err != nil {
		return nil, fmt.Errorf("keeping a view: %w", err)
	}
	out, err := list(ctx, tx, tx.Person.ID, name)
	if err == nil && len(out) > most {
		return nil, refusal.New(refusal.ViewsMany, "name", "You keep %d views of this list. Give one up first.", most)
	}
	return out, err
}

func list(ctx context.Context, q sqlx.QueryerContext, person int32, name string) ([]View, error) {
	out := []View{}
	if err := sqlx.SelectContext(ctx, q, &out, `
		SELECT name, settings FROM saved_views WHERE person_id = $1 AND list = $2 ORDER BY lower(name), name`,
		person, name); err != nil {
		return nil, fmt.Errorf("reading kept views: %w", err)
	}
	for i := range out {
		if err := json.Unmarshal(out[i].Raw, &out[i].Settings); err != nil {
			return nil, fmt.Errorf("reading a kept view: %w", err)
		}
	}
	return out, nil
}
