package staff

import (
	"context"
	"net/http"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/papers"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/database"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

type byPerson struct {
	ID int32 `path:"id"`
}

// Register adds the operations on who works here.
func Register(r *web.Router) {
	registerMembers(r)
	registerSessions(r)
	registerEvents(r)
	registerFounding(r)
}

// registerFounding adds the first page, which is open while nobody works here.
func registerFounding(r *web.Router) {
	type door struct {
		Open bool `json:"open" doc:"Nobody works here yet: the first site and the first lead are to be named"`
	}
	web.Query(r, http.MethodGet, "/first-start", "read-first-start", "Whether nobody works here yet", web.Anybody,
		func(ctx context.Context, _ *struct{}) (door, error) {
			founded, err := Founded(ctx, r.Reads)
			return door{!founded}, err
		})
	web.Query(r, http.MethodPost, "/first-start", "first-start", "Name the first site and the first lead, with the code that the server printed",
		web.Anybody, func(ctx context.Context, in *struct {
			Body struct {
				Code string `json:"code" maxLength:"60"`
				Founding
			}
		}) (Member, error) {
			if err := checkCode(ctx, r.Reads, in.Body.Code); err != nil {
				return Member{}, err
			}
			return command.Do(people.With(ctx, Console), r.Runner, "", "first-start", nil,
				func(ctx context.Context, tx *command.Tx) (Member, error) { return Found(ctx, tx, in.Body.Founding) })
		})
}

func registerMembers(r *web.Router) {
	web.Query(r, http.MethodGet, "/people", "list-people", "Who works here, and who did", web.Lead,
		func(ctx context.Context, _ *struct{}) ([]Member, error) { return list(ctx, r.Reads) })
	web.Query(r, http.MethodGet, "/people/{id}", "get-person", "Somebody who works here, or did", web.Lead,
		func(ctx context.Context, in *byPerson) (Member, error) { return byID(ctx, r.Reads, in.ID) })
	web.Command(r, "/people", "add-person", "Let somebody work here", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Newcomer }) (Member, error) {
			return Add(ctx, tx, in.Body)
		})
	web.Command(r, "/people/{id}", "change-person", "Change somebody's name, roles, sites or badge", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int32 `path:"id"`
			Body Wish
		}) (Member, error) {
			return Change(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/people/{id}/secret", "give-secret", "Give somebody a password or a PIN, to be changed at its first use", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int32 `path:"id"`
			Body struct {
				What   people.Secret `json:"what" enum:"password,pin"`
				Secret string        `json:"secret" maxLength:"200"`
			}
		}) (Member, error) {
			return Give(ctx, tx, in.ID, in.Body.What, in.Body.Secret)
		})
	web.Command(r, "/people/{id}/end", "end-person", "Somebody left: they sign on no more, and stay in the trail", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *byPerson) (Member, error) { return End(ctx, tx, in.ID) })
	web.Command(r, "/people/{id}/return", "return-person", "Somebody who left works here again", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *byPerson) (Member, error) { return Return(ctx, tx, in.ID) })
	web.PaperFor(r, web.Lead, "/people/{id}/badge.pdf", "print-badge", "Somebody's badge, to be cut out and worn",
		func(ctx context.Context, in *byPerson) (string, []byte, error) {
			by, err := people.Acting(ctx)
			if err != nil {
				return "", nil, err
			}
			m, err := byID(ctx, r.Reads, in.ID)
			if err == nil && m.Badge == "" {
				err = refusal.New(refusal.FieldMissing, "badge", "%s has no badge. Write what it is to say first.", m.Name)
			}
			if err != nil {
				return "", nil, err
			}
			pdf, err := papers.Badge{Name: m.Name, Roles: m.Roles.String(), Site: m.Site, Code: m.Badge}.Print()
			if err != nil {
				return "", nil, err
			}
			return "badge", pdf, people.Record(ctx, r.Reads, people.Event{Kind: people.BadgePrinted, Person: m.ID, By: by.ID})
		})
}

func registerSessions(r *web.Router) {
	web.Query(r, http.MethodGet, "/sessions", "list-sessions", "Who is signed on now, and where", web.Lead,
		func(ctx context.Context, in *struct {
			Person int32 `query:"person" doc:"Of this person alone"`
		}) ([]Session, error) {
			return sessions(ctx, r.Reads, in.Person)
		})
	web.Command(r, "/people/{id}/sessions/end", "end-sessions", "End somebody's sessions, or one of them", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int32 `path:"id"`
			Body struct {
				Session int64 `json:"session,omitempty" doc:"This one alone"`
			}
		}) ([]Session, error) {
			return EndSession(ctx, tx, in.ID, in.Body.Session)
		})
}

func registerEvents(r *web.Router) {
	type Filter struct {
		Person int32  `query:"person" doc:"About this person, or by them"`
		Text   string `query:"q" maxLength:"80" doc:"Part of what happened, whom, by whom, where from or of what was tried"`
		Sort   string `query:"sort" enum:"at,kind,person" default:"at"`
	}
	web.Query(r, http.MethodGet, "/access-events", "list-access-events", "Who signed on, or tried to, and who gave whom which rights", web.Lead,
		func(ctx context.Context, in *struct {
			Filter
			documents.Asked
		}) (documents.Page[Event], error) {
			return events.Page(ctx, r.Reads, in.Sort, in.Asked, in.Person, database.LikeLiteral(in.Text))
		})
	web.DownloadFor(r, web.Lead, "/access-events/export", "export-access-events", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Filter
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "access", in.Format)(events.Table(ctx, from, in.Sort, in.Down, in.Person, database.LikeLiteral(in.Text)))
		})
}
