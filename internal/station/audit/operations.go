// Package audit is the station where what lies in bins is counted, and differences are
// accepted.
package audit

import (
	"context"
	"net/http"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/shopspring/decimal"
)

// CountRequest is an item in a bin that is put down for counting.
type CountRequest struct {
	LocationID  int32     `db:"location_id" json:"location_id"`
	Bin         string    `db:"bin" json:"bin"`
	ItemID      int32     `db:"item_id" json:"item_id"`
	SKU         string    `db:"sku" json:"sku"`
	Description string    `db:"description" json:"description"`
	Round       string    `db:"round" json:"round" doc:"The last round that found too few"`
	RaisedBy    string    `db:"raised_by" json:"raised_by"`
	RaisedAt    time.Time `db:"raised_at" json:"raised_at"`
	Times       int       `db:"times" json:"times" doc:"How often too few were found since it was counted"`
}

// Sheet is what is to be counted of an item in a bin. It says not how many there should
// be.
type Sheet struct {
	LocationID  int32           `db:"location_id" json:"location_id"`
	Bin         string          `db:"bin" json:"bin"`
	SiteID      int32           `db:"site_id" json:"-"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Whole       bool            `db:"whole" json:"whole"`
	Tracking    string          `db:"tracking" json:"tracking"`
	Cost        decimal.Decimal `db:"cost" json:"-"`
	// Since names the last move there: a count is of what lay there then.
	Since int64  `db:"since" json:"since"`
	Kinds []Kind `db:"-" json:"kinds"`
}

// Kind is goods that are told apart from others in the bin.
type Kind struct {
	LotID    *int64 `db:"lot_id" json:"lot_id"`
	Lot      string `db:"lot" json:"lot"`
	CartonID *int64 `db:"carton_id" json:"carton_id"`
	Carton   string `db:"carton" json:"carton" doc:"The number of the carton or pallet that they lie on; empty for loose goods"`
}

// Count is what was found of an item in a bin.
type Count struct {
	LocationID int32     `json:"location_id"`
	ItemID     int32     `json:"item_id"`
	Since      int64     `json:"since" doc:"As the sheet said"`
	Kinds      []Counted `json:"kinds" minItems:"1" maxItems:"200"`
}

// Counted is how many there are of one kind.
type Counted struct {
	LotID    *int64   `json:"lot_id,omitempty"`
	CartonID *int64   `json:"carton_id,omitempty"`
	Quantity string   `json:"quantity,omitempty" maxLength:"40" doc:"Where units are not known one by one"`
	Serials  []string `json:"serials,omitempty" maxItems:"500" doc:"Where they are"`
}

// Done says what a count came to, once it is confirmed.
type Done struct {
	ID      int64  `json:"id"`
	Words   string `json:"words"`
	Differs bool   `json:"differs" doc:"It differs from the books, and waits for a lead"`
}

// Differing is a count that differs from the books, for a lead to decide on.
type Differing struct {
	ID          int64           `db:"id" json:"id"`
	Number      string          `db:"number" json:"number"`
	LocationID  int32           `db:"location_id" json:"location_id"`
	Bin         string          `db:"bin" json:"bin"`
	ItemID      int32           `db:"item_id" json:"item_id"`
	SKU         string          `db:"sku" json:"sku"`
	Description string          `db:"description" json:"description"`
	Unit        string          `db:"unit" json:"unit"`
	Found       decimal.Decimal `db:"found" json:"found"`
	Expected    decimal.Decimal `db:"expected" json:"expected" doc:"What the books said when it was counted"`
	Variance    decimal.Decimal `db:"variance" json:"variance"`
	Value       decimal.Decimal `db:"value" json:"value"`
	CountedBy   string          `db:"counted_by" json:"counted_by"`
	CountedAt   time.Time       `db:"counted_at" json:"counted_at"`
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/counts/due", "list-count-requests", "What is to be counted", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]CountRequest, error) {
			return listCountRequests(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/counts/today", "list-counts-of-today",
		"What is to be counted today and why, in the order of one walk, cut to the minutes that there are", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Today, error) {
			return readToday(ctx, db, in.Site, r.Runner.Now())
		})
	web.Paper(r, "/counts/today/sheet.pdf", "print-count-sheet", "The list of the day on paper, with nothing of the books",
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (string, []byte, error) {
			pdf, err := printSheet(ctx, db, in.Site, r.Runner.Now())
			return "count-sheet", pdf, err
		})
	web.Query(r, http.MethodGet, "/counts/classes", "list-count-classes",
		"The items of a site, ranked by the value that left it in a year", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Classed, error) {
			s, err := readSettings(ctx, db, in.Site)
			if err != nil {
				return nil, err
			}
			return readClasses(ctx, db, in.Site, s, r.Runner.Now())
		})
	web.Query(r, http.MethodGet, "/counts/sheet", "read-count-sheet", "What is to be counted of an item in a bin",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Location int32 `query:"location"`
			Item     int32 `query:"item"`
		}) (Sheet, error) {
			s, _, err := readSheet(ctx, db, in.Location, in.Item)
			return s, err
		})
	web.Query(r, http.MethodPost, "/counts/preview", "preview-count", "What a count says, before it is confirmed; nothing of the books", web.Floor,
		func(ctx context.Context, in *struct{ Body Count }) (*ledger.Plan, error) {
			return blind(ctx, db, in.Body)
		})
	web.Command(r, "/counts", "count", "Confirm what was counted; it is settled unless it differs", web.Floor,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Count }) (Done, error) {
			return Confirm(ctx, tx, in.Body)
		})
	registerDecisions(r)
}

// registerDecisions adds what a lead does with counts that differ.
func registerDecisions(r *web.Router) {
	type byID struct {
		ID int64 `path:"id"`
	}
	web.Query(r, http.MethodGet, "/counts/differing", "list-differing-counts",
		"Counts that differ from the books and wait for a decision", web.Lead,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Differing, error) {
			return listDiffering(ctx, r.Reads, in.Site)
		})
	web.Query(r, http.MethodPost, "/counts/{id}/settle/preview", "preview-settle-count",
		"Before and after of settling a count", web.Lead,
		func(ctx context.Context, in *byID) (*ledger.Plan, error) { return planSettle(ctx, r.Reads, in.ID) })
	web.Command(r, "/counts/{id}/settle", "settle-count", "Accept a count that differs, and say why", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Reason string `json:"reason" maxLength:"200"`
			}
		}) (Done, error) {
			return Settle(ctx, tx, in.ID, in.Body.Reason)
		})
	web.Command(r, "/counts/{id}/again", "count-again", "Withdraw a count that differs, and have it counted again",
		web.Lead,
		func(ctx context.Context, tx *command.Tx, in *byID) (Done, error) {
			return Again(ctx, tx, in.ID)
		})
}
