package sheets

import (
	"context"
	"fmt"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
)

// returnReasons are why customers send goods back.
var returnReasons = Sheet{
	Name: "return-reasons", Label: "Reasons of returns", Key: "name",
	Columns: []Column{
		{Name: "name", Label: "Reason", Kind: "text", Needed: true, Help: "Why goods come back, such as damaged on the way."},
	},
	query: `SELECT name FROM return_reasons WHERE $1 > 0 ORDER BY id`,
	write: func(ctx context.Context, tx *command.Tx, _ int32, _, row Row) error {
		_, err := tx.ExecContext(ctx, `
			INSERT INTO return_reasons (name) VALUES ($1) ON CONFLICT (name) DO NOTHING`, row["name"])
		if err != nil {
			return fmt.Errorf("writing reason %s: %w", row["name"], err)
		}
		return nil
	},
}

// byPerson is said of a kind of return whose goods somebody decides on.
const byPerson = "by a person"

// decidedAs are what may become of goods with nobody asked.
var decidedAs = []string{byPerson, "stock", "quarantine", "damaged", "scrap"}

// returnKinds are what a return goes through, and what the customer gets for it.
var returnKinds = Sheet{
	Name: "return-kinds", Label: "Kinds of return", Key: "name",
	Columns: []Column{
		{Name: "name", Label: "Name", Kind: "text", Needed: true, Help: "As it stands on returns and their papers."},
		{Name: "approved", Label: "Is approved", Kind: "flag", Default: "no",
			Help: "Whether a lead approves it before its goods may come."},
		{Name: "gives", Label: "Gives", Kind: "choice", Choices: []string{"money", "the same again", "something else", "nothing"}, Default: "money",
			Help: "What the customer gets."},
		{Name: "gives_when", Label: "Gives it once", Kind: "choice", Choices: []string{"announced", "received", "decided"},
			Default: "decided", Help: "After which step: once it is announced, once all is received, or once all is decided."},
		{Name: "taxed", Label: "With tax", Kind: "flag", Default: "yes", Help: "Whether money is given back with its tax."},
		{Name: "fee_pct", Label: "Fee, %", By: people.Accounts, Kind: "percent", places: 2, Default: "0", Help: "What is kept of the price."},
		{Name: "within_days", Label: "Taken within, days", Kind: "count", open: true,
			Help: "How long after shipping it is taken; empty for any time."},
		{Name: "send_in_days", Label: "To be sent in, days", Kind: "count", Default: "14",
			Help: "How long the customer has to send it in."},
		{Name: "decides", Label: "Decided as it comes in", Kind: "choice", Choices: decidedAs, Default: byPerson,
			Help: "What becomes of its goods with nobody asked. Only what comes as new goes back to stock like that; a person decides on the rest."},
		{Name: "goods_stay", Label: "Goods stay with the customer", Kind: "flag", Default: "no",
			Help: "Whether nothing is sent in, received or decided on: the customer keeps the goods, and gets what it gives once it is announced."},
		{Name: "inspected", Label: "Is inspected", Kind: "flag", Default: "yes",
			Help: "Whether whoever receives its goods says in what condition they came."},
		{Name: "papered", Label: "With a paper", Kind: "flag", Default: "yes",
			Help: "Whether its goods are found by what was shipped; a lead takes goods without any paper else."},
		{Name: "retired", Label: "No longer used", Kind: "flag", Default: "no", Help: "Whether it is offered no more."},
	},
	query: `
		SELECT name, CASE WHEN approved THEN 'yes' ELSE 'no' END AS approved, gives, gives_when,
		       CASE WHEN taxed THEN 'yes' ELSE 'no' END AS taxed, trim_scale(fee_pct)::text AS fee_pct,
		       within_days::text AS within_days, send_in_days::text AS send_in_days,
		       coalesce(nullif(decides, ''), 'by a person') AS decides,
		       CASE WHEN goods_stay THEN 'yes' ELSE 'no' END AS goods_stay, CASE WHEN inspected THEN 'yes' ELSE 'no' END AS inspected,
		       CASE WHEN papered THEN 'yes' ELSE 'no' END AS papered,
		       CASE WHEN retired THEN 'yes' ELSE 'no' END AS retired FROM return_kinds WHERE $1 > 0 ORDER BY id`,
	check: func(_ context.Context, _ *facts, _, row Row) error { return checkReturnKind(row) },
	write: func(ctx context.Context, tx *command.Tx, _ int32, _, row Row) error {
		_, err := tx.ExecContext(ctx, `
			INSERT INTO return_kinds (name, approved, gives, gives_when, taxed, fee_pct, within_days, send_in_days, retired,
			  papered, decides, goods_stay, inspected)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13)
			ON CONFLICT (name) DO UPDATE SET approved = $2, gives = $3, gives_when = $4, taxed = $5, fee_pct = $6,
			  within_days = $7, send_in_days = $8, retired = $9, papered = $10, decides = $11, goods_stay = $12,
			  inspected = $13`,
			row["name"], row.flag("approved"), row["gives"], row["gives_when"], row.flag("taxed"), row.number("fee_pct"),
			row.count("within_days"), row.count("send_in_days"), row.flag("retired"), row.flag("papered"),
			strings.TrimPrefix(row["decides"], byPerson), row.flag("goods_stay"), row.flag("inspected"))
		if err != nil {
			return fmt.Errorf("writing kind of return %s: %w", row["name"], err)
		}
		return nil
	},
}

// checkReturnKind refuses steps that do not go together.
func checkReturnKind(row Row) error {
	stay := row.flag("goods_stay")
	switch {
	case stay && row["gives_when"] != "announced":
		return refusal.New(refusal.StepsClash, "gives_when",
			"Goods that stay with the customer are neither received nor decided on: what it gives follows once it is announced.")
	case stay && !row.flag("papered"):
		return refusal.New(refusal.StepsClash, "papered",
			"Which goods stay with the customer is known by what was shipped: such a kind is with a paper.")
	case stay && row["decides"] != byPerson:
		return refusal.New(refusal.StepsClash, "decides", "Goods that stay with the customer do not come in: nothing is decided on them.")
	case !row.flag("inspected") && row["decides"] == "stock":
		return refusal.New(refusal.StepsClash, "inspected",
			"Only what comes as new goes back to stock by itself: it has to be said in what condition it came.")
	}
	return nil
}
