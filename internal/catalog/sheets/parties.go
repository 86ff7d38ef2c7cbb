package sheets

import (
	"context"
	"fmt"
	"net/mail"
	"strings"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
)

func parties(kind, label string) Sheet {
	return Sheet{
		Name: strings.ToLower(label), Label: label, Key: "code", Columns: partyColumns(kind),
		query: `
			SELECT code, name, address, contact, email, terms, carrier, trim_scale(price_pct)::text AS price_pct,
			       trim_scale(overdue)::text AS overdue, trim_scale(credit_limit)::text AS credit_limit,
			       trim_scale(discount_pct)::text AS discount_pct, CASE WHEN in_parts THEN 'yes'
			       ELSE 'no' END AS in_parts, invoiced, CASE WHEN taxed THEN 'yes' ELSE 'no' END AS taxed,
			       due_days::text AS due_days, CASE WHEN together THEN 'yes' ELSE 'no' END AS together
		  FROM parties WHERE kind = '` + kind + `' AND $1 > 0 ORDER BY code`,
		check: func(_ context.Context, f *facts, old, row Row) error {
			code := strings.ToUpper(row["code"])
			if is, taken := f.parties[code]; taken && old == nil {
				return refusal.New(refusal.CodeTaken, "code", "%s is the code of a %s already. Choose another.",
					row["code"], is)
			}
			if owner, taken := f.names[strings.ToUpper(row["name"])]; taken && !strings.EqualFold(owner, row["code"]) {
				return refusal.New(refusal.NameTaken, "name",
					"%s is the name of %s already. Tell the two apart, by their town for one.", row["name"], owner)
			}
			if _, err := mail.ParseAddress(row["email"]); row["email"] != "" && err != nil {
				return refusal.New(refusal.AddressMalformed, "email",
					"%q is not an address for mail. Write it as name@example.org.", clip(row["email"]))
			}
			if row["carrier"] != "" && !f.carriers[row["carrier"]] && row["carrier"] != old["carrier"] {
				return refusal.New(refusal.CarrierUnknown, "carrier",
					"%q is no carrier on the sheet of carriers. Add it there first.", clip(row["carrier"]))
			}
			f.names[strings.ToUpper(row["name"])] = row["code"]
			return nil
		},
		write: writeParty(kind),
	}
}

// partyColumns are what is kept of suppliers, or of customers.
func partyColumns(kind string) []Column {
	columns := []Column{
		{Name: "code", Label: "Code", Kind: "text", Needed: true,
			Help: "A short code that tells one from another and stays."},
		{Name: "name", Label: "Name", Kind: "text", Needed: true, Help: "As it stands on papers."},
		{Name: "address", Label: "Address", Kind: "text", Help: "Where goods go to or come from, on one line."},
		{Name: "contact", Label: "Contact", Kind: "text", Help: "Whom to ask, and how."},
		{Name: "email", Label: "Mail", Kind: "text",
			Help: "The address that papers are mailed to, such as name@example.org."},
		{Name: "terms", Label: "Terms", Kind: "text", Help: "How they are paid or pay, such as 30 days net."},
		{Name: "carrier", Label: "Carrier", Kind: "text", Of: "carriers", Help: "The carrier they like, one of the catalog's."},
	}
	if kind == "customer" {
		columns = append(columns,
			Column{Name: "overdue", Label: "Overdue", Money: true, By: people.Accounts, Kind: "number", places: 2,
				Help: "What it owes beyond its time. An order of one that owes raises a question."},
			Column{Name: "credit_limit", Label: "Credit limit", Money: true, By: people.Lead, Kind: "number", places: 2, open: true,
				Help: "What it may owe at most; empty for any amount."},
			Column{Name: "discount_pct", Label: "Discount, %", Money: true, By: people.Accounts, Kind: "percent", places: 2,
				Help: "What it pays less than the sales price. What was agreed for an item goes before it."},
			Column{Name: "taxed", Label: "Pays sales tax", By: people.Accounts, Kind: "flag", Default: "yes",
				Help: "No for one that is exempt: its invoices bear no tax."},
			Column{Name: "due_days", Label: "Days to pay", By: people.Accounts, Kind: "count",
				Help: "How many days after it was made an invoice is due."},
			Column{Name: "in_parts", Label: "Partial shipments", Kind: "flag", Default: "yes",
				Help: "Whether part of an order may be shipped before the rest."},
			Column{Name: "invoiced", Label: "Invoiced", Kind: "choice", Default: "later",
				Choices: []string{"later", "shipped",
					"mailed"}, Help: "Whether an invoice is made later, with each shipment (shipped), or mailed " +
					"with it."},
			Column{Name: "together", Label: "One invoice for several shipments", Kind: "flag", Default: "no",
				Help: "Whether shipments that are invoiced in one go stand on one invoice."})
	}
	if kind == "supplier" {
		columns = append(columns, Column{Name: "price_pct", Label: "Price allowance, %", By: people.Lead, Kind: "percent", places: 2,
			Help: "By how much an invoice may be above the price agreed."})
	}
	return columns
}

// writeParty writes a supplier or a customer, new or changed.
func writeParty(kind string) func(context.Context, *command.Tx, int32, Row, Row) error {
	return func(ctx context.Context, tx *command.Tx, _ int32, old, row Row) error {
		price := row.number("price_pct")
		var err error
		if old == nil {
			_, err = tx.ExecContext(ctx, `
					WITH location AS (INSERT INTO locations (kind, code) VALUES ($1, $3) RETURNING id)
					INSERT INTO parties (kind, code, name, address, contact, carrier, price_pct, email, terms,
					  overdue, credit_limit, in_parts, invoiced, discount_pct, taxed, due_days, together, location_id) SELECT $1, $2, $3, $4, $5,
					  $6, coalesce($7::numeric, 0), $8, $9, coalesce($10::numeric, 0), $11, $12,
					  coalesce(nullif($13, ''), 'later'), coalesce($14::numeric, 0), $15,
					  coalesce($16::integer, 0), $17, id FROM location`,
				kind, row["code"], row["name"], row["address"], row["contact"], row["carrier"], price, row["email"], row["terms"], row.number("overdue"), row.number("credit_limit"), row["in_parts"] != "no", row["invoiced"], row.number("discount_pct"), row["taxed"] != "no", row.number("due_days"), row["together"] == "yes")
		} else {
			_, err = tx.ExecContext(ctx, `
					WITH party AS (UPDATE parties SET name = $2, address = $3, contact = $4, carrier = $5,
					  price_pct = coalesce($6::numeric, 0), email = $7, terms = $8,
					  overdue = coalesce($9::numeric, 0), credit_limit = $10, in_parts = $11,
					  invoiced = coalesce(nullif($12, ''), 'later'), discount_pct = coalesce($13::numeric, 0),
					  taxed = $14, due_days = coalesce($15::integer, 0), together = $16
					  WHERE code = $1 RETURNING location_id)
					UPDATE locations SET code = $2 FROM party WHERE locations.id = party.location_id`,
				row["code"], row["name"], row["address"], row["contact"], row["carrier"], price, row["email"], row["terms"], row.number("overdue"), row.number("credit_limit"), row["in_parts"] != "no", row["invoiced"], row.number("discount_pct"), row["taxed"] != "no", row.number("due_days"), row["together"] == "yes")
		}
		if err != nil {
			return fmt.Errorf("writing %s %s: %w", kind, row["code"], err)
		}
		return nil
	}
}
