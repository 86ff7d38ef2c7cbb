// Package labels keeps the labels that goods, cartons and pallets are to get, until they are
// printed.
package labels

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/connection"
	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// mostCopies is how many labels one job may have.
const mostCopies = 200

// A Job is one label so many times, or one label for each of several units.
type Job struct {
	ID       int64  `db:"id" json:"id"`
	Title    string `db:"title" json:"title"`
	Document string `db:"document" json:"document"`
	Raw      []byte `db:"labels" json:"-"`
	// Label is the first of Labels.
	Label   papers.GoodsLabel   `db:"-" json:"label"`
	Labels  []papers.GoodsLabel `db:"-" json:"-"`
	Copies  int                 `db:"copies" json:"copies"`
	Printed int                 `db:"printed" json:"printed"`
	Stopped string              `db:"stopped" json:"stopped"`
	// Sent is true while it waits for the printer to print it.
	Sent    bool      `db:"sent" json:"sent"`
	Person  string    `db:"person" json:"person"`
	AskedAt time.Time `db:"asked_at" json:"asked_at"`
}

// A Queue is what waits to be printed at a site.
type Queue struct {
	Waiting []Job `json:"waiting"`
	// Recent are the last jobs that are through.
	Recent []Job `json:"recent"`
}

// Goods are what labels are wanted for: an item or a lot by its packs, units one by one,
// or a carton or pallet by its number.
type Goods struct {
	Item     catalog.Item
	Lot      string
	Expires  *time.Time
	Quantity decimal.Decimal
	Serials  []string
	// SSCC, Kind and Contents are those of a carton or a pallet; nothing else is set then.
	SSCC, Kind, Contents string
}

// labels writes the labels of goods, and how many of them are wanted.
func (g Goods) labels(today time.Time) (title string, labels []papers.GoodsLabel, n int) {
	if g.SSCC != "" {
		l := papers.GoodsLabel{SKU: strings.ToUpper(g.Kind[:1]) + g.Kind[1:] + " …" + g.SSCC[14:],
			Description: g.Contents, Element: g.SSCC, Words: g.SSCC}
		carry(&l, today, gs1.Element{AI: "00", Value: g.SSCC})
		return g.Kind + " …" + g.SSCC[14:], []papers.GoodsLabel{l}, 1
	}
	title = g.Item.SKU
	if len(g.Serials) > 0 {
		for _, code := range g.Serials {
			labels = append(labels, g.unit(code, today))
		}
		return title + " serial " + receiving.SerialRanges(g.Serials), labels, len(labels)
	}
	if g.Lot != "" {
		title += " lot " + g.Lot
	}
	l, n := g.pack(today)
	return title, []papers.GoodsLabel{l}, n
}

// unit writes the label of one unit.
func (g Goods) unit(code string, today time.Time) papers.GoodsLabel {
	l := papers.GoodsLabel{SKU: g.Item.SKU, Description: g.Item.Description, Serial: code, Pack: g.Item.BaseUnit,
		Element: code, Words: code}
	for _, p := range g.Item.Packs {
		if p.GTIN != nil && p.Holds.Equal(decimal.NewFromInt(1)) {
			carry(&l, today, gs1.Element{AI: "01", Value: *p.GTIN}, gs1.Element{AI: "21", Value: code})
		}
	}
	return l
}

// pack writes the label of goods by the largest pack they come in, and how many.
func (g Goods) pack(today time.Time) (papers.GoodsLabel, int) {
	l := papers.GoodsLabel{SKU: g.Item.SKU, Description: g.Item.Description, Lot: g.Lot, Pack: g.Item.BaseUnit,
		Element: g.Item.SKU, Words: g.Item.SKU}
	holds, gtin := decimal.NewFromInt(1), ""
	if n := len(g.Item.Packs); n > 0 {
		pack := g.Item.Packs[n-1]
		l.Pack, holds = pack.Name, pack.Holds
		if pack.GTIN != nil {
			gtin = *pack.GTIN
		}
	}
	if g.Expires != nil {
		l.ExpiresOn = g.Expires.Format(time.DateOnly)
	}
	if gtin != "" {
		elements := []gs1.Element{{AI: "01", Value: gtin}}
		if g.Expires != nil {
			elements = append(elements, gs1.Element{AI: "17", Value: g.Expires.Format("060102")})
		}
		if g.Lot != "" {
			elements = append(elements, gs1.Element{AI: "10", Value: g.Lot})
		}
		carry(&l, today, elements...)
	}
	return l, copies(g.Quantity, holds)
}

// carry puts elements into a label's symbol. What no symbol can carry is still printed
// for people.
func carry(l *papers.GoodsLabel, today time.Time, elements ...gs1.Element) {
	if raw, err := gs1.Write(elements, today); err == nil {
		l.Element, l.GS1, l.Words = raw, true, gs1.Message{Elements: elements}.Bracketed()
	}
}

// copies is one label for each pack, begun ones too.
func copies(quantity, holds decimal.Decimal) int {
	return max(1, int(min(quantity.Div(holds).Ceil().IntPart(), mostCopies)))
}

// Ask puts labels into the queue of a site's printer.
func Ask(ctx context.Context, tx *command.Tx, site int32, document string, goods []Goods) error {
	titles, printed, wanted := make([]string, len(goods)), make([]string, len(goods)), make([]int, len(goods))
	for i, g := range goods {
		title, labels, n := g.labels(tx.Now)
		raw, err := json.Marshal(labels)
		if err != nil {
			return fmt.Errorf("writing a label: %w", err)
		}
		titles[i], printed[i], wanted[i] = title, string(raw), n
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO print_jobs (site_id, title, document, labels, copies, asked_by, asked_at)
		SELECT $1, x.title, $2, x.labels, x.copies, $3, $4
		  FROM unnest($5::text[], $6::text[]::jsonb[], $7::int[]) WITH ORDINALITY AS x(title, labels, copies, n)
		 ORDER BY x.n`,
		site, document, tx.Person.ID, tx.Now, titles, printed, wanted)
	if err != nil {
		return fmt.Errorf("asking for labels: %w", err)
	}
	tx.NotifySite(site, "printer")
	return nil
}

// Withdraw takes the labels of goods that were taken back out of the queue, as far as
// none of a job is printed yet: what was printed has to be thrown away.
func Withdraw(ctx context.Context, tx *command.Tx, document, sku string, lot *string, units []string) error {
	title := sku
	switch {
	case len(units) > 0:
		title += " serial " + receiving.SerialRanges(units)
	case lot != nil:
		title += " lot " + *lot
	}
	var withdrawn []struct {
		ID     int64
		SiteID int32 `db:"site_id"`
	}
	err := tx.SelectContext(ctx, &withdrawn, `
		UPDATE print_jobs
		   SET discarded = true, stopped = 'the goods were taken back'
		 WHERE document = $1 AND title = $2 AND printed < copies AND NOT discarded
		RETURNING id, site_id`, document, title)
	if err != nil {
		return fmt.Errorf("withdrawing a label: %w", err)
	}
	jobs := make([]int64, len(withdrawn))
	for i, j := range withdrawn {
		jobs[i] = j.ID
		tx.NotifySite(j.SiteID, "printer")
	}
	return recall(ctx, tx, jobs...)
}

const jobColumns = `SELECT j.id, j.title, j.document, j.labels, j.copies, j.printed, j.stopped,
	EXISTS (SELECT FROM outbox o WHERE o.channel = 'printer' AND o.state = 'waiting'
	AND o.body ->> 'job' = j.id::text) AS sent,
	p.name AS person, j.asked_at FROM print_jobs j JOIN people p ON p.id = j.asked_by `

func jobs(ctx context.Context, q sqlx.QueryerContext, where string, args ...any) ([]Job, error) {
	out := []Job{}
	if err := sqlx.SelectContext(ctx, q, &out, jobColumns+where, args...); err != nil {
		return nil, fmt.Errorf("reading print jobs: %w", err)
	}
	for i := range out {
		if err := json.Unmarshal(out[i].Raw, &out[i].Labels); err != nil {
			return nil, fmt.Errorf("reading a label: %w", err)
		}
		if len(out[i].Labels) > 0 {
			out[i].Label = out[i].Labels[0]
		}
	}
	return out, nil
}

// Read reads what waits to be printed at a site.
func Read(ctx context.Context, q sqlx.QueryerContext, site int32) (out Queue, err error) {
	if out.Waiting, err = jobs(ctx, q, `
		WHERE j.site_id = $1 AND j.printed < j.copies AND NOT j.discarded ORDER BY j.id`, site); err != nil {
		return out, err
	}
	out.Recent, err = jobs(ctx, q, `
		WHERE j.site_id = $1 AND (j.printed = j.copies OR j.discarded) ORDER BY j.id DESC LIMIT 20`, site)
	return out, err
}

// A Sheet is what a printer is told: a job, and how many labels of it are to come out.
type Sheet struct {
	Job    int64 `json:"job"`
	Copies int   `json:"copies"`
}

// Printed is what a printer answers: how many came out, with whatever error ended it.
type Printed struct {
	Printed int `json:"printed"`
}

// Print gives what waits to the site's printer, in order; only these jobs, when any are
// named. What it has already is tried again at once.
func Print(ctx context.Context, tx *command.Tx, site int32, only []int64) (Queue, error) {
	if err := tx.At(ctx, site); err != nil {
		return Queue{}, err
	}
	queue, err := Read(ctx, tx, site)
	if err != nil {
		return queue, err
	}
	wanted := 0
	for _, j := range queue.Waiting {
		if len(only) > 0 && !slices.Contains(only, j.ID) {
			continue
		}
		wanted++
		if j.Sent {
			continue
		}
		m := connection.Message{SiteID: site, Channel: connection.Printer, Receiver: connection.SiteReceiver(site),
			Kind: "labels", Document: j.Document}
		if err := connection.Put(ctx, tx, m, Sheet{j.ID, j.Copies - j.Printed}); err != nil {
			return queue, err
		}
	}
	if wanted == 0 {
		return queue, refusal.New(refusal.NothingToPrint, "",
			"No label waits here. They come up when goods are received.").Of(refusal.Conflict)
	}
	if err := connection.Again(ctx, tx, site, connection.Printer); err != nil {
		return queue, err
	}
	return Read(ctx, tx, site)
}

// Settle counts what the printer printed, and why it stopped. What is still to come of a
// sheet is told anew by its message.
func Settle(ctx context.Context, tx *command.Tx, m connection.Message, answer json.RawMessage, said error) error {
	var sheet Sheet
	var done Printed
	if err := json.Unmarshal(m.Body, &sheet); err != nil {
		return fmt.Errorf("reading a sheet: %w", err)
	}
	if answer != nil {
		if err := json.Unmarshal(answer, &done); err != nil {
			return fmt.Errorf("reading what was printed: %w", err)
		}
	}
	stopped := ""
	if said != nil {
		stopped = said.Error()
	}
	_, err := tx.ExecContext(ctx, `
		UPDATE print_jobs SET printed = least(printed + $2,
		copies), stopped = $3 WHERE id = $1`, sheet.Job, done.Printed, stopped)
	if err != nil {
		return fmt.Errorf("counting what was printed: %w", err)
	}
	_, err = tx.ExecContext(ctx, `
		UPDATE outbox SET body = jsonb_set(body, '{copies}',
		to_jsonb($2::int)) WHERE id = $1`, m.ID, sheet.Copies-done.Printed)
	if err != nil {
		return fmt.Errorf("counting what is still to be printed: %w", err)
	}
	return nil
}

// recall takes the sheets of jobs back from the printer, where it has them.
func recall(ctx context.Context, tx *command.Tx, jobs ...int64) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE outbox
		   SET state = 'discarded', done_at = $2
		 WHERE channel = 'printer' AND state = 'waiting' AND (body ->> 'job')::bigint = ANY ($1)`, jobs, tx.Now)
	if err != nil {
		return fmt.Errorf("taking a label back: %w", err)
	}
	return nil
}

// Discard takes a job out of the queue.
func Discard(ctx context.Context, tx *command.Tx, site int32, job int64) (Queue, error) {
	if err := tx.At(ctx, site); err != nil {
		return Queue{}, err
	}
	result, err := tx.ExecContext(ctx, `
		UPDATE print_jobs SET discarded = true WHERE id = $1 AND site_id = $2 AND printed < copies AND NOT discarded`,
		job, site)
	if err != nil {
		return Queue{}, fmt.Errorf("discarding a label: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return Queue{}, documents.Missing("waiting label", fmt.Sprint(job))
	}
	if err := recall(ctx, tx, job); err != nil {
		return Queue{}, err
	}
	tx.NotifySite(site, "printer")
	return Read(ctx, tx, site)
}

// Again asks for copies of a label that was printed before.
func Again(ctx context.Context, tx *command.Tx, site int32, job int64, n int) (Queue, error) {
	if err := tx.At(ctx, site); err != nil {
		return Queue{}, err
	}
	if n < 1 || n > mostCopies {
		return Queue{}, refusal.New(refusal.LabelCount, "copies",
			"%d copies cannot be printed at once. Ask for 1 to %d.", n, mostCopies)
	}
	// Of units, each has its own label: n times each is meant.
	result, err := tx.ExecContext(ctx, `
		INSERT INTO print_jobs (site_id, title, document, labels, copies, asked_by, asked_at)
		SELECT site_id, title, document, labels, $3 * jsonb_array_length(labels), $4, $5 FROM print_jobs
		 WHERE id = $1 AND site_id = $2`, job, site, n, tx.Person.ID, tx.Now)
	if err != nil {
		return Queue{}, fmt.Errorf("asking for a label again: %w", err)
	}
	if rows, _ := result.RowsAffected(); rows == 0 {
		return Queue{}, documents.Missing("label", fmt.Sprint(job))
	}
	tx.NotifySite(site, "printer")
	return Read(ctx, tx, site)
}

// paper is a job as a PDF: one page for each label that differs, as it would come out.
func paper(ctx context.Context, q sqlx.QueryerContext, job int64) (string, []byte, error) {
	found, err := jobs(ctx, q, `WHERE j.id = $1`, job)
	if err != nil {
		return "", nil, err
	}
	if len(found) == 0 {
		return "", nil, documents.Missing("label", fmt.Sprint(job))
	}
	pdf, err := papers.GoodsLabels(found[0].Labels)
	return "label-" + file(found[0].Title), pdf, err
}

// file makes a file's name of a title.
func file(title string) string {
	return strings.Map(func(r rune) rune {
		if r > '~' || !strings.ContainsRune("-_.", r) && (r < '0' || r > '9') && (r < 'A' || r > 'Z') &&
			(r < 'a' || r > 'z') {
			return '-'
		}
		return r
	}, title)
}
