// Package carrier stands in for those who carry goods: each gives a tracking number, and can
// be told not to answer, to answer oddly or to refuse, since real ones do.
package carrier

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"lanternrow/internal/carriers"
	"lanternrow/internal/connection"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/standin/control"

	"github.com/jmoiron/sqlx"
)

// What a stand-in does.
const (
	Takes   = "takes"
	Silent  = "silent"
	Odd     = "odd"
	Refuses = "refuses"
)

// Desk is the stand-in behind the port for carriers.
type Desk struct{ DB *sqlx.DB }

// Deliver books a shipment and answers with its tracking number, the same for the same
// message; or does what it was told to do.
func (d Desk) Deliver(ctx context.Context, m connection.Message) (json.RawMessage, error) {
	var does string
	if err := d.DB.GetContext(ctx, &does, `
		SELECT coalesce((SELECT does FROM carriers WHERE name = $1), 'takes')`, m.Receiver); err != nil {
		return nil, fmt.Errorf("reading a carrier: %w", err)
	}
	switch does {
	case Silent:
		return nil, errors.New(m.Receiver + " does not answer")
	case Odd:
		return nil, errors.New(m.Receiver + " answers what nobody understands: <html>200 OK</html>")
	case Refuses:
		return nil, &connection.Refusal{Said: m.Receiver + " says: no collection from this address today"}
	}
	var tracking string
	err := d.DB.GetContext(ctx, &tracking, `
		INSERT INTO carrier_bookings (message_id, tracking)
		VALUES ($1, $2 || lpad(nextval('tracking_numbers')::text, 8, '0'))
		ON CONFLICT (message_id) DO UPDATE SET message_id = $1 RETURNING tracking`, m.ID, initials(m.Receiver))
	if err != nil {
		return nil, fmt.Errorf("numbering a shipment: %w", err)
	}
	return json.Marshal(connection.Booked{Tracking: tracking})
}

// initials are the capital letters that a name's words begin with.
func initials(name string) string {
	var letters strings.Builder
	for _, word := range strings.Fields(name) {
		if r := word[0]; r >= 'A' && r <= 'Z' {
			letters.WriteByte(r)
		}
	}
	return letters.String()
}

// Register adds the stand-in's operation.
func Register(r *web.Router) {
	control.Register(r, "/carriers/tell", "tell-carrier", "Tell a carrier's stand-in what to do", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				SiteID int32  `json:"site_id"`
				Name   string `json:"name" maxLength:"80"`
				Does   string `json:"does" enum:"takes,silent,odd,refuses"`
			}
		}) ([]carriers.Carrier, error) {
			result, err := tx.ExecContext(ctx, `
				UPDATE carriers SET does = $2 WHERE name = $1`, in.Body.Name, in.Body.Does)
			if err != nil {
				return nil, fmt.Errorf("telling a carrier: %w", err)
			}
			if n, _ := result.RowsAffected(); n == 0 {
				return nil, documents.Missing("carrier", in.Body.Name)
			}
			if err := connection.AgainFor(ctx, tx, connection.Carrier, in.Body.Name); err != nil {
				return nil, err
			}
			tx.Notify("dispatch")
			return carriers.List(ctx, tx, in.Body.SiteID, tx.Now)
		})
}
