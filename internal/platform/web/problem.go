package web

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/database"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// A Problem is an RFC 9457 problem document.
type Problem struct {
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	// Code is stable and meant for programs.
	Code refusal.Code `json:"code" doc:"The same for the same reason, whatever the sentence"`
	// Detail is a sentence for the person who asked.
	Detail string `json:"detail"`
	// Field is the path of the input it is about.
	Field string            `json:"field,omitempty"`
	Facts map[string]string `json:"facts,omitempty"`
	// Request is what the log knows a request by that went wrong.
	Request string `json:"request,omitempty"`
}

func (p *Problem) Error() string             { return p.Detail }
func (p *Problem) GetStatus() int            { return p.Status }
func (p *Problem) ContentType(string) string { return "application/problem+json" }

var statuses = map[refusal.Kind]int{
	refusal.Invalid: http.StatusUnprocessableEntity, refusal.Conflict: http.StatusConflict, refusal.Missing: http.StatusNotFound,
	refusal.Forbidden: http.StatusForbidden, refusal.SignedOut: http.StatusUnauthorized, refusal.TooMany: http.StatusTooManyRequests,
	refusal.Unavailable: http.StatusServiceUnavailable, refusal.Unsupported: http.StatusUnsupportedMediaType, refusal.TooLarge: http.StatusRequestEntityTooLarge,
}

// retryAfter is how many seconds a client waits before it asks again what could not be
// answered this moment.
const retryAfter = "3"

// GetHeaders are those that the answer has besides.
func (p *Problem) GetHeaders() http.Header {
	if p.Status == http.StatusServiceUnavailable || p.Status == http.StatusTooManyRequests {
		return http.Header{"Retry-After": {retryAfter}}
	}
	return nil
}

func problem(status int, code refusal.Code, detail string) *Problem {
	return &Problem{Type: "about:blank", Title: http.StatusText(status), Status: status, Code: code, Detail: detail}
}

// problemOf turns any error into what the client is told. Only refusals say what
// went wrong; anything else is our fault, and goes to the log.
func problemOf(ctx context.Context, db sqlx.QueryerContext, err error) error {
	err = database.Unavailable(ledger.Explain(ctx, db, err))
	r := refusal.From(err)
	if r == nil {
		r = unreadable(err)
	}
	if r != nil {
		p := problem(statuses[r.Kind], r.Code, r.Sentence)
		p.Field, p.Facts = r.Field, r.Facts
		return p
	}
	var p *Problem
	if errors.As(err, &p) {
		return p
	}
	slog.Error("request failed", "request", requestOf(ctx), "error", err)
	wrong := problem(http.StatusInternalServerError, refusal.Internal,
		"Something went wrong here, not with what you entered. Nothing was changed. Try again; if it stays so, "+
			"tell whoever runs the house.")
	if wrong.Request = requestOf(ctx); wrong.Request != "" {
		wrong.Detail += " The log knows it as " + wrong.Request + "."
	}
	return wrong
}

// unreadable is the refusal of input that only the database could tell is none: a
// reference to what does not exist, a number out of all range, text that is no text.
func unreadable(err error) *refusal.Refusal {
	var pg *pgconn.PgError
	if !errors.As(err, &pg) {
		return nil
	}
	// Codes of PostgreSQL's Appendix A.
	switch pg.Code {
	case "23503":
		return refusal.New(refusal.RefersToNothing, "",
			"This refers to something that is not there. Nothing was changed; reload the page and choose again.")
	case "22003":
		return refusal.New(refusal.NumberAbsurd, "",
			"A number in this is far out of range. Nothing was changed; check the numbers.")
	case "22021", "22P05":
		return refusal.New(refusal.TextMalformed, "",
			"A text in this has a character that cannot be kept. Nothing was changed; type it anew.")
	}
	return nil
}

func init() {
	// Lists are never null: an empty one says so itself.
	huma.DefaultArrayNullable = false
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		p := problem(status, refusal.Malformed, message)
		var words []string
		for _, e := range errs {
			var d *huma.ErrorDetail
			if errors.As(e, &d) {
				if p.Field == "" {
					p.Field = strings.TrimPrefix(d.Location, "body.")
				}
				words = append(words, strings.TrimPrefix(d.Location, "body.")+": "+d.Message)
			} else if e != nil {
				words = append(words, e.Error())
			}
		}
		if len(words) > 0 {
			p.Detail = "The request cannot be read. " + strings.Join(words, "; ") + "."
		}
		return p
	}
}
