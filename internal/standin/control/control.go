// Package control is how stand-ins are told what to do. Where stand-ins are switched off, nothing tells them anything.
package control

import (
	"context"
	"encoding/json"
	"fmt"

	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

// Register registers an operation that tells a stand-in of a site, named in the body's site_id, what to do. Who told it
// what stands with who signed on.
func Register[I, O any](
	r *web.Router, path, id, summary string, roles people.Roles, fn func(context.Context, *command.Tx, *I) (O, error),
) {
	if !r.StandIns {
		return
	}
	web.Command(r, path, id, summary, roles, func(ctx context.Context, tx *command.Tx, in *I) (out O, err error) {
		site, told, err := read(in)
		if err != nil {
			return out, err
		}
		if err := tx.At(ctx, site); err != nil {
			return out, err
		}
		if err := people.Record(ctx, tx, people.Event{Kind: people.StandInTold, By: tx.Person.ID, Detail: id + " " + told}); err != nil {
			return out, err
		}
		return fn(ctx, tx, in)
	})
}

// read finds of which site a stand-in is told, and what.
func read(in any) (site int32, told string, err error) {
	text, err := json.Marshal(in)
	if err != nil {
		return 0, "", fmt.Errorf("reading what a stand-in is told: %w", err)
	}
	var sent struct{ Body json.RawMessage }
	var at struct {
		SiteID int32 `json:"site_id"`
	}
	if err = json.Unmarshal(text, &sent); err == nil {
		err = json.Unmarshal(sent.Body, &at)
	}
	if err != nil {
		return 0, "", fmt.Errorf("reading what a stand-in is told: %w", err)
	}
	return at.SiteID, string(sent.Body), nil
}
