// Package audit is the station where what lies in bins is counted, and differences are
// accepted.
package audit

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/database"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

type atSite struct {
	Site int32 `query:"site"`
}

type byID struct {
	ID int64 `path:"id"`
}

// Register adds the station's operations. Replan plans orders anew that lose what was reserved for them to a count.
func Register(r *web.Router, replan Replanner) {
	registerToday(r)
	registerCounts(r)
	registerAccuracy(r)
	registerDecisions(r, replan)
	registerSheets(r)
}

// registerToday adds what is to be counted, and why.
func registerToday(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/counts/today", "list-counts-of-today",
		"What is to be counted today and why, in the order of one walk, cut to the minutes that there are", web.Everyone,
		func(ctx context.Context, in *atSite) (Today, error) {
			return ReadToday(ctx, db, in.Site, r.Runner.Now())
		})
	web.Paper(r, "/counts/today/sheet.pdf", "print-counts-of-today", "The list of the day on paper, with nothing of the books",
		func(ctx context.Context, in *atSite) (string, []byte, error) {
			pdf, err := printToday(ctx, db, in.Site, r.Runner.Now())
			return "count-sheet", pdf, err
		})
	web.Query(r, http.MethodGet, "/counts/classes", "list-count-classes",
		"The items of a site, ranked by the value that left it in a year", web.Everyone,
		func(ctx context.Context, in *atSite) ([]Classed, error) {
			s, err := readSettings(ctx, db, in.Site)
			if err != nil {
				return nil, err
			}
			return readClasses(ctx, db, in.Site, s, r.Runner.Now())
		})
}

// registerCounts adds counting itself.
func registerCounts(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/counts/entry", "read-count-entry", "What is to be counted of an item in a bin; nothing of how many",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Location int32 `query:"location"`
			Item     int32 `query:"item"`
		}) (Entry, error) {
			e, _, err := readEntry(ctx, db, in.Location, in.Item)
			return e, err
		})
	web.Query(r, http.MethodPost, "/counts/preview", "preview-count", "What a count says, before it is confirmed; nothing of the books", web.Floor,
		func(ctx context.Context, in *struct{ Body Count }) (*ledger.Plan, error) {
			person, err := people.Acting(ctx)
			if err != nil {
				return nil, err
			}
			return blind(ctx, db, in.Body, person, r.Runner.Now())
		})
	web.Command(r, "/counts", "count",
		"Confirm what was counted; it is settled unless it differs, and counted again by another person where it differs by much", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Count }) (Done, error) {
			return Confirm(ctx, tx, in.Body)
		})
	type Filter struct {
		Site int32  `query:"site"`
		Text string `query:"q" maxLength:"80" doc:"Part of its number, bin, item, person, sheet or reason"`
		Sort string `query:"sort" enum:"at,number,bin,sku,state,value,off,by" default:"at"`
	}
	web.Query(r, http.MethodGet, "/counts", "list-counts", "The counts of a site that waited for nobody any more, page by page", web.Lead,
		func(ctx context.Context, in *struct {
			Filter
			documents.Asked
		}) (documents.Page[PastCount], error) {
			return pastCounts.Page(ctx, db, in.Sort, in.Asked, in.Site, database.LikeLiteral(in.Text))
		})
	web.DownloadFor(r, web.Lead, "/counts/export", "export-counts", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Filter
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "counts", in.Format)(pastCounts.Table(ctx, from, in.Sort, in.Down, in.Site, database.LikeLiteral(in.Text)))
		})
}

// registerDecisions adds what a lead does with counts that differ.
func registerDecisions(r *web.Router, replan Replanner) {
	db := r.Reads
	type deciding struct {
		ID   int64 `path:"id"`
		Body Decision
	}
	type because struct {
		ID   int64 `path:"id"`
		Body struct {
			Reason string `json:"reason" maxLength:"200"`
		}
	}
	web.Query(r, http.MethodGet, "/counts/differing", "list-differing-counts",
		"Counts that differ from the books and wait for a decision or for another person", web.Lead,
		func(ctx context.Context, in *atSite) ([]PastCount, error) { return listDiffering(ctx, db, in.Site) })
	web.Query(r, http.MethodGet, "/counts/{id}", "get-count", "A count, those before and after it, and what moved since", web.Lead,
		func(ctx context.Context, in *byID) (CountFile, error) { return readCount(ctx, db, in.ID) })
	web.Query(r, http.MethodPost, "/counts/{id}/settle/preview", "preview-settle-count", "Before and after of settling a count", web.Lead,
		func(ctx context.Context, in *deciding) (*ledger.Plan, error) {
			return planSettle(ctx, db, in.ID, in.Body.Sure)
		})
	web.Command(r, "/counts/{id}/settle", "settle-count", "Accept a count that differs, and say why", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *deciding) (Done, error) {
			return Settle(ctx, tx, in.ID, in.Body, replan)
		})
	web.Command(r, "/counts/{id}/again", "count-again", "Withdraw a count that differs, and have it counted anew", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *byID) (Done, error) { return Again(ctx, tx, in.ID) })
	web.Query(r, http.MethodPost, "/counts/{id}/take-back/preview", "preview-take-back-count", "Before and after of taking a count back", web.Lead,
		func(ctx context.Context, in *byID) (*ledger.Plan, error) { return planTakeBack(ctx, db, in.ID) })
	web.Command(r, "/counts/{id}/take-back", "take-back-count",
		"Take a settled count back by a posting of the opposite, and have the bin counted again", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *because) (Done, error) {
			return TakeBack(ctx, tx, in.ID, in.Body.Reason)
		})
}

// registerSheets adds count sheets.
func registerSheets(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/count-sheets", "list-count-sheets", "Count sheets of a site, those that are open first", web.Everyone,
		func(ctx context.Context, in *atSite) ([]Sheet, error) { return listSheets(ctx, db, in.Site) })
	web.Query(r, http.MethodGet, "/count-sheets/{id}", "get-count-sheet", "A count sheet and how far it is; nothing of how many there should be",
		web.Everyone, func(ctx context.Context, in *byID) (OpenSheet, error) { return readSheet(ctx, db, in.ID) })
	web.Query(r, http.MethodPost, "/count-sheets/preview", "preview-count-sheet", "What a count sheet will have on it, and how long each team takes",
		web.Lead, func(ctx context.Context, in *struct{ Body Wanted }) (Foreseen, error) {
			return in.Body.foresee(ctx, db, r.Runner.Now())
		})
	web.Command(r, "/count-sheets", "open-count-sheet", "Have bins counted together", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Wanted }) (Sheet, error) {
			return Open(ctx, tx, in.Body)
		})
	web.Command(r, "/count-sheets/{id}/close", "close-count-sheet", "End a sheet before all of it is counted: what is left stays uncounted", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *byID) (Sheet, error) { return Close(ctx, tx, in.ID) })
	web.Command(r, "/count-sheets/{id}/nothing-else", "nothing-else-in-bin", "Nothing lies in a bin besides what was counted there", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				LocationID int32 `json:"location_id"`
			}
		}) (Looked, error) {
			return NothingElse(ctx, tx, in.ID, in.Body.LocationID)
		})
	web.Paper(r, "/count-sheets/{id}/sheet.pdf", "print-count-sheet", "A count sheet on paper, or a team's part of it, with nothing of the books",
		func(ctx context.Context, in *struct {
			ID   int64 `path:"id"`
			Team int   `query:"team" doc:"Of this team alone"`
		}) (string, []byte, error) {
			pdf, err := printSheet(ctx, db, in.ID, in.Team, r.Runner.Now())
			return "count-sheet", pdf, err
		})
}

// registerAccuracy adds how right the books were found.
func registerAccuracy(r *web.Router) {
	type Asked struct {
		Site int32  `query:"site" doc:"One site; all without"`
		By   string `query:"by" enum:"site,zone,class,person,month,week" default:"month"`
		From string `query:"from" maxLength:"10" doc:"The first day; a year back without"`
		To   string `query:"to" maxLength:"10" doc:"The last day; today without"`
	}
	read := func(ctx context.Context, from *sqlx.DB, in Asked) (AccuracyReport, error) {
		return readAccuracy(ctx, from, in.Site, in.By, in.From, in.To, r.Runner.Now())
	}
	web.Query(r, http.MethodGet, "/counts/accuracy", "read-accuracy",
		"How right the books were found, with the bounds of a sample, and what made them wrong", web.Lead,
		func(ctx context.Context, in *struct{ Asked }) (AccuracyReport, error) {
			return read(ctx, r.Reports, in.Asked)
		})
	web.DownloadFor(r, web.Lead, "/counts/accuracy/export", "export-accuracy", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Asked
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			report, err := read(ctx, from, in.Asked)
			return web.TableFile(ctx, "accuracy", in.Format)(report.table(), err)
		})
}

// when is a time as a file has it.
func when(t time.Time) string { return t.UTC().Format(time.RFC3339) }
