// Package web serves the API, its description, live changes and the interface.
package web

import (
	"bytes"
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/exchange"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/database"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jmoiron/sqlx"
)

// Roles that may use an operation, of which each names some: one that names none cannot be registered.
var (
	// Anybody is whoever comes, signed on or not.
	Anybody  = people.Roles{anybody}
	Everyone = people.Every
	Floor    = people.Roles{people.Lead, people.Receiver, people.Picker}
	Inbound  = people.Roles{people.Lead, people.Receiver, people.Office}
	Dock     = people.Roles{people.Lead, people.Receiver}
	Picking  = people.Roles{people.Lead, people.Picker}
	Office   = people.Roles{people.Lead, people.Office}
	Accounts = people.Roles{people.Lead, people.Accounts}
	// Desk is whoever works at a desk, and sees money.
	Desk = people.Desk
	Lead = people.Roles{people.Lead}
)

const anybody people.Role = "anybody"

// A Router is where stations register their operations.
type Router struct {
	api huma.API
	// Runner runs commands, on connections of their own.
	Runner *command.Runner
	// Reads answers what changes nothing; no command's lock can hold it up.
	Reads *sqlx.DB
	// Reports answers what may be a little behind: what is read in bulk, as what stock is worth, and tables as files.
	Reports *sqlx.DB
	people  *people.Service
	// StandIns are there for what stands outside, and can be told what to do.
	StandIns bool
	// steps are the operations that not everyone may use, or that change or plan something, and who may use each.
	steps map[string]people.Roles
	watch *watch
	// reading has a slot for each connection that reads may use.
	reading chan struct{}
}

// A Reply carries an operation's answer.
type Reply[T any] struct{ Body T }

type keyContext struct{}

// An Option sets what few operations need.
type Option func(*huma.Operation)

// Large lets requests be larger than usual.
func Large(bytes int64) Option { return func(op *huma.Operation) { op.MaxBodyBytes = bytes } }

// Long lets an operation take longer than usual.
func Long(deadline time.Duration) Option {
	return func(op *huma.Operation) { op.Metadata[deadlineKey] = deadline }
}

// How long an operation may take before it is given up, with whatever it asked of the
// database.
const (
	usualDeadline = 20 * time.Second
	deadlineKey   = "deadline"
)

// What a request may carry: before anybody is signed on, and then.
const (
	bareBody  = 4 << 10
	usualBody = 1 << 20
)

// read runs fn when a connection for reading is free: requests wait here, and not in the
// pool, so that they can be told what to do when none comes free.
func read[O any](ctx context.Context, r *Router, fn func(context.Context) (O, error)) (out O, err error) {
	select {
	case r.reading <- struct{}{}:
		defer func() { <-r.reading }()
		return fn(ctx)
	case <-time.After(database.Patience):
		return out, database.Exhausted()
	case <-ctx.Done():
		return out, ctx.Err()
	}
}

// Query registers an operation that changes nothing.
func Query[I, O any](
	r *Router, method, path, id, summary string, roles people.Roles, fn func(context.Context, *I) (O, error),
	options ...Option,
) {
	huma.Register(r.api, r.operation(method, path, id, summary, roles, options...),
		func(ctx context.Context, in *I) (*Reply[O], error) {
			out, err := read(ctx, r, func(ctx context.Context) (O, error) { return fn(ctx, in) })
			if err != nil {
				return nil, problemOf(ctx, r.Reads, err)
			}
			return &Reply[O]{out}, nil
		})
}

// Command registers an operation that changes something. It runs in one
// transaction, and once for each Idempotency-Key.
func Command[I, O any](
	r *Router, path, id, summary string, roles people.Roles, fn func(context.Context, *command.Tx, *I) (O, error),
	options ...Option,
) {
	op := r.operation(http.MethodPost, path, id, summary, roles, options...)
	op.Parameters = append(op.Parameters, &huma.Param{Name: "Idempotency-Key", In: "header",
		Schema: &huma.Schema{Type: "string"},
		Description: "Made by the client, new for each command: sent twice, the command happens once and answers " +
			"the same."})
	huma.Register(r.api, op, func(ctx context.Context, in *I) (*Reply[O], error) {
		key, _ := ctx.Value(keyContext{}).(string)
		out, err := command.Do(ctx, r.Runner, key, id, in, func(ctx context.Context, tx *command.Tx) (O,
			error) {
			return fn(ctx, tx, in)
		})
		if err != nil {
			return nil, problemOf(ctx, r.Reads, err)
		}
		return &Reply[O]{out}, nil
	})
}

// A File is an answer that is not JSON.
type File struct {
	Type    string `header:"Content-Type"`
	Display string `header:"Content-Disposition"`
	Body    []byte
}

// Paper registers an operation that answers with a PDF.
func Paper[I any](
	r *Router, path, id, summary string, fn func(context.Context, *I) (name string, pdf []byte, err error),
) {
	PaperFor(r, Everyone, path, id, summary, fn)
}

// PaperFor is Paper for some roles only.
func PaperFor[I any](
	r *Router, roles people.Roles, path, id, summary string, fn func(context.Context, *I) (name string, pdf []byte, err error),
) {
	DownloadFor(r, roles, path, id, summary, map[string]string{"pdf": "application/pdf"},
		func(ctx context.Context, _ *sqlx.DB, in *I) (File, error) {
			name, pdf, err := fn(ctx, in)
			return File{Type: "application/pdf", Display: `inline; filename="` + name + `.pdf"`, Body: pdf}, err
		})
}

// TableFile makes a table that was read a file to be saved, CSV or XLSX, with what whoever acts may see of it.
func TableFile(ctx context.Context, name, format string) func(t exchange.Table, err error) (File, error) {
	return func(t exchange.Table, err error) (File, error) {
		if err != nil {
			return File{}, err
		}
		if !seesMoney(ctx) {
			t = t.Moneyless()
		}
		var b bytes.Buffer
		err = t.Write(&b, format)
		return File{Type: exchange.Types[format], Display: `attachment; filename="` + name + "." + format + `"`,
			Body: b.Bytes()}, err
	}
}

// Download registers an operation that answers with a file of one of these types. fn reads where reports are read, which may
// be a standby.
func Download[I any](
	r *Router, path, id, summary string, types map[string]string,
	fn func(ctx context.Context, from *sqlx.DB, in *I) (File, error),
) {
	DownloadFor(r, Everyone, path, id, summary, types, fn)
}

// DownloadFor is Download for some roles only.
func DownloadFor[I any](
	r *Router, roles people.Roles, path, id, summary string, types map[string]string,
	fn func(ctx context.Context, from *sqlx.DB, in *I) (File, error),
) {
	op := r.operation(http.MethodGet, path, id, summary, roles)
	content := map[string]*huma.MediaType{}
	for _, t := range types {
		t, _, _ = strings.Cut(t, ";")
		content[t] = &huma.MediaType{Schema: &huma.Schema{Type: "string", Format: "binary"}}
	}
	op.Responses = map[string]*huma.Response{"200": {Description: "The file", Content: content}}
	huma.Register(r.api, op, func(ctx context.Context, in *I) (*File, error) {
		file, err := read(ctx, r, func(ctx context.Context) (File, error) { return fn(ctx, r.Reports, in) })
		if err != nil {
			return nil, problemOf(ctx, r.Reads, err)
		}
		return &file, nil
	})
}

func (r *Router) operation(method, path, id, summary string, roles people.Roles, options ...Option) huma.Operation {
	tag, _, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	op := huma.Operation{Method: method, Path: "/api/v1" + path, OperationID: id, Summary: summary, Tags: []string{tag},
		MaxBodyBytes: bareBody, Metadata: map[string]any{deadlineKey: usualDeadline}}
	if len(roles) == 0 {
		panic("nobody may use the operation " + id)
	}
	if !roles.Has(anybody) {
		op.MaxBodyBytes = usualBody
		op.Metadata["roles"] = roles
		if method != http.MethodGet || len(roles) < len(Everyone) {
			r.steps[id] = roles
		}
		op.Security = []map[string][]string{{"session": {}}}
		op.Description = "May be used by: " + roles.String() + "."
		op.Middlewares = huma.Middlewares{r.guard(roles)}
	}
	for _, set := range options {
		set(&op)
	}
	return op
}

// mayUse are the operations that somebody may use of those that not everyone may, or that change or plan something, in the
// order of their names.
func (r *Router) mayUse(p people.Person) []string {
	out := []string{}
	for id, roles := range r.steps {
		if p.Roles.Has(roles...) {
			out = append(out, id)
		}
	}
	slices.Sort(out)
	return out
}

// presentHeader says that somebody touched the page just now: what a page asks by itself keeps no session open.
const presentHeader = "X-Present"

// beforeChange may be done with a secret that somebody else gave.
var beforeChange = []string{"change-secret"}

// guard lets in whoever is signed on in one of the roles, and puts the person and
// the request key into the context.
func (r *Router) guard(roles people.Roles) func(huma.Context, func(huma.Context)) {
	return func(hc huma.Context, next func(huma.Context)) {
		ctx := hc.Context()
		token := tokenOf(hc.Header("Cookie"))
		session, err := r.people.Session(ctx, token)
		if err == nil && (hc.Header(presentHeader) != "" || hc.Method() != http.MethodGet) {
			err = r.people.Seen(ctx, token)
		}
		switch {
		case err != nil:
		case session.Person.MustChange != "" && !slices.Contains(beforeChange, hc.Operation().OperationID):
			err = refusal.New(refusal.SecretGiven, "", "Somebody else gave you your %s. Choose one of your own first.",
				session.Person.MustChange.Words()).Of(refusal.Forbidden)
		case hc.Method() != http.MethodGet && hc.Header("X-CSRF-Token") != session.CSRF:
			err = refusal.New(refusal.CSRF, "",
				"This page is out of date. Reload it and try again; nothing was done.").Of(refusal.Forbidden)
		default:
			err = session.Person.May(roles)
		}
		if err != nil {
			r.refuse(hc, err)
			return
		}
		if who, ok := ctx.Value(whoKey{}).(*people.Person); ok {
			*who = session.Person
		}
		ctx = people.With(ctx, session.Person)
		ctx = context.WithValue(ctx, keyContext{}, hc.Header("Idempotency-Key"))
		next(huma.WithContext(hc, ctx))
	}
}

// refuse answers with a problem instead of doing what was asked.
func (r *Router) refuse(hc huma.Context, err error) {
	var p *Problem
	if !errors.As(problemOf(hc.Context(), r.Reads, err), &p) {
		p = problem(http.StatusInternalServerError, refusal.Internal, "Something went wrong here.")
	}
	hc.SetStatus(p.Status)
	for name, values := range p.GetHeaders() {
		hc.SetHeader(name, values[0])
	}
	hc.SetHeader("Content-Type", "application/problem+json")
	_ = r.api.Marshal(hc.BodyWriter(), "application/json", p)
}
