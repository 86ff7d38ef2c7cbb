// Package pick is the station where open orders become rounds, and rounds are
// walked: each take moves stock from a bin into a carton at once.
package pick

import (
	"context"
	"encoding/json"
	"lanternrow/internal/people"
	"net/http"
	"time"

	"lanternrow/internal/core/walking"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/shipping"

	"github.com/shopspring/decimal"
)

// Wish says what a round is planned for.
type Wish struct {
	SiteID     int32   `json:"site_id"`
	OrderIDs   []int64 `json:"order_ids" minItems:"1" maxItems:"5000"`
	LineIDs    []int64 `json:"line_ids,omitempty" maxItems:"5000" doc:"Only these lines of them"`
	Without    []int64 `json:"without,omitempty" maxItems:"5000" doc:"All of their lines but these"`
	Zone       string  `json:"zone,omitempty" maxLength:"20" doc:"Only from this zone"`
	FromBin    string  `json:"from_bin,omitempty" maxLength:"60" doc:"Only from this bin on, by code"`
	ToBin      string  `json:"to_bin,omitempty" maxLength:"60" doc:"Only up to this bin, by code"`
	EmptyFirst string  `json:"empty_first,omitempty" maxLength:"60" doc:"A bin to be emptied first"`
	FromID     int32   `json:"from_id,omitempty" doc:"A dock that the goods are taken straight from, instead of bins"`
}

// Stop is one take of a planned round.
type Stop struct {
	LineID     int64   `json:"line_id"`
	LocationID int32   `json:"location_id"`
	LotID      *int64  `json:"lot_id,omitempty"`
	CartonID   *int64  `json:"carton_id,omitempty" doc:"The carton or pallet in the bin that it is taken off"`
	SerialIDs  []int64 `json:"serial_ids,omitempty" maxItems:"500" doc:"The very units, where they are reserved for the order: the first of them, as many as the quantity"`
	Quantity   string  `json:"quantity" maxLength:"40"`
}

// Draft is a planned round, as proposed or as changed by the lead.
type Draft struct {
	SiteID int32  `json:"site_id"`
	Stops  []Stop `json:"stops" maxItems:"1000"`
	// EachUnit is nil for the site's own setting.
	EachUnit *bool `json:"each_unit,omitempty" doc:"Whether each unit is scanned; the site's setting without"`
}

// Proposed is a planned round, in the order it will be walked.
type Proposed struct {
	Stops  []ProposedStop `json:"stops"`
	Orders []string       `json:"orders"`
	// Short says what no stock covers.
	Shortages []Shortage `json:"shortages"`
	Robbed    []Robbed   `json:"robbed" doc:"Orders wanted earlier that are promised what this takes"`
	// Metres is the shortest walk, PlainMetres that in bin order.
	Metres      float64         `json:"metres"`
	PlainMetres float64         `json:"plain_metres"`
	Path        json.RawMessage `json:"path"`
	Units       decimal.Decimal `json:"units"`
	WeightKg    decimal.Decimal `json:"weight_kg"`
	// Time is how long it takes at the site's pace.
	Time   walking.Estimate `json:"time"`
	Button string           `json:"button"`
}

// ProposedStop is a stop with everything a person wants to see of it.
type ProposedStop struct {
	LineID      int64           `json:"line_id"`
	OrderID     int64           `json:"order_id"`
	Order       string          `json:"order"`
	LocationID  int32           `json:"location_id"`
	Bin         string          `json:"bin"`
	Zone        string          `json:"zone"`
	ItemID      int32           `json:"item_id"`
	SKU         string          `json:"sku"`
	Description string          `json:"description"`
	Unit        string          `json:"unit"`
	LotID       *int64          `json:"lot_id"`
	Lot         string          `json:"lot"`
	CartonID    *int64          `json:"carton_id"`
	Carton      string          `json:"carton" doc:"The number of the carton or pallet it is taken off; empty for loose goods"`
	SerialIDs   []int64         `json:"serial_ids" nullable:"false"`
	Serials     []string        `json:"serials" nullable:"false" doc:"The very units, where they are reserved for the order"`
	Quantity    decimal.Decimal `json:"quantity"`
	// Available is what lies there and is not reserved elsewhere.
	Available decimal.Decimal `json:"available"`
	Why       string          `json:"why"`

	// mine is true for what is reserved for the line.
	mine bool
}

// Shortage is what a line still wants and no stock covers.
type Shortage struct {
	Order    string          `json:"order"`
	SKU      string          `json:"sku"`
	Quantity decimal.Decimal `json:"quantity"`
	Why      string          `json:"why"`
}

// Scans are what was scanned at a stop, in the order asked for.
type Scans struct {
	StopID   int64    `json:"stop_id"`
	Bin      string   `json:"bin,omitempty" maxLength:"200"`
	Item     string   `json:"item,omitempty" maxLength:"200"`
	Lot      string   `json:"lot,omitempty" maxLength:"200" doc:"Where the lot is asked for on the way out, and the item's scan had none"`
	Serials  []string `json:"serials,omitempty" maxItems:"200" doc:"One for each unit, where units are known or are taken down on the way out"`
	Each     []string `json:"each,omitempty" maxItems:"500" doc:"A scan for each unit, where the round asks for it"`
	Carton   string   `json:"carton,omitempty" maxLength:"200"`
	Quantity string   `json:"quantity,omitempty" maxLength:"40"`
	// HappenedAt is when it was done, for scans that are sent later.
	HappenedAt *time.Time `json:"happened_at,omitempty" doc:"When it was scanned, if that was before it is sent"`
}

type onRound[T any] struct {
	ID   int64 `path:"id"`
	Body T
}

type openCarton struct {
	Scan    string `json:"scan" maxLength:"200"`
	OrderID int64  `json:"order_id,omitempty" doc:"Needed when the round serves several orders"`
}

type short struct {
	StopID int64  `json:"stop_id"`
	Found  string `json:"found" maxLength:"40" doc:"How many are there, of those still wanted"`
}

type stage struct {
	LeaveRest bool `json:"leave_rest,omitempty" doc:"Give back the stops that were not made"`
}

// Picker is somebody who may walk rounds.
type Picker struct {
	ID     int32        `db:"id" json:"id"`
	Name   string       `db:"name" json:"name"`
	Roles  people.Roles `db:"roles" json:"roles" nullable:"false"`
	Rounds int          `db:"rounds" json:"rounds" doc:"How many rounds they walk now"`
}

type reassign struct {
	PersonID int32 `json:"person_id,omitempty" doc:"Who walks it on; nobody yet without"`
}

type whole struct {
	StopID     int64      `json:"stop_id"`
	Bin        string     `json:"bin,omitempty" maxLength:"200"`
	Scan       string     `json:"scan" maxLength:"200" doc:"The label of the carton or pallet"`
	HappenedAt *time.Time `json:"happened_at,omitempty"`
}

type eachUnit struct {
	EachUnit bool `json:"each_unit"`
}

type otherLot struct {
	StopID int64  `json:"stop_id"`
	Lot    string `json:"lot" maxLength:"200" doc:"Its code, or a scan that says it"`
}

// Confirmation is what became of a round that was walked on paper: the stops that differ
// from what was planned; all others were made as planned.
type Confirmation struct {
	Differing []Differing `json:"differing,omitempty" maxItems:"1000"`
}

// Differing is a stop that was made otherwise than planned, or whose units are written
// down.
type Differing struct {
	StopID  int64    `json:"stop_id"`
	Picked  string   `json:"picked" maxLength:"40"`
	Serials []string `json:"serials,omitempty" maxItems:"500"`
	Lot     string   `json:"lot,omitempty" maxLength:"200" doc:"The lot that was taken, where it is asked on the way out: its code, or a scan that says it"`
}

// Register adds the station's operations. prefix is the GS1 Company Prefix that cartons
// are numbered under.
func Register(r *web.Router, prefix string, look Looker) {
	db := r.Reads
	web.Query(r, http.MethodPost, "/pick/plan", "plan-round", "Stock and walk proposed for orders", web.Lead,
		func(ctx context.Context, in *struct{ Body Wish }) (*Proposed, error) {
			return Propose(ctx, db, in.Body, r.Runner.Now())
		})
	web.Query(r, http.MethodPost, "/pick/preview", "preview-round", "The walk of a round as it was changed", web.Lead,
		func(ctx context.Context, in *struct{ Body Draft }) (*Proposed, error) {
			p, out, err := review(ctx, db, in.Body.SiteID, [][]Stop{in.Body.Stops})
			if err != nil {
				return nil, err
			}
			out[0].Robbed, err = p.robbed(ctx, db, out[0].Stops)
			return out[0], err
		})
	web.Command(r, "/rounds", "release-round", "Release a round", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Draft }) (Round, error) {
			return Release(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodGet, "/pick/open", "list-pickable", "What waits for a round, with what it asks of one",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
			OpenFilter
			Sort string `query:"sort" enum:"number,customer,wanted,carrier,lines,units,canGo,kg,metres,minutes" default:"wanted"`
			documents.Asked
		}) (out Open, err error) {
			if out, err = OpenAt(ctx, db, in.Site, in.OpenFilter, r.Runner.Now()); err != nil {
				return out, err
			}
			out.Page, err = openOrders.Page(out.Rows, in.Sort, in.Asked)
			return out, err
		})
	web.Query(r, http.MethodGet, "/pick/day", "read-pick-day",
		"Picks by the hour, and the work that is left against the collections of today", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (Day, error) {
			return readDay(ctx, db, in.Site, r.Runner.Now())
		})
	web.Query(r, http.MethodPost, "/waves/plan", "plan-wave", "Stock and rounds proposed for many orders", web.Lead,
		func(ctx context.Context, in *struct{ Body WaveWish }) (*Wave, error) {
			return PlanWave(ctx, db, in.Body, r.Runner.Now())
		})
	web.Query(r, http.MethodPost, "/waves/preview", "preview-wave", "Rounds planned together, as they were changed",
		web.Lead,
		func(ctx context.Context, in *struct{ Body WaveDraft }) (*Wave, error) {
			return ReviewWave(ctx, db, in.Body)
		})
	web.Command(r, "/waves", "release-wave", "Release rounds together", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body WaveDraft }) ([]Round, error) {
			return ReleaseWave(ctx, tx, in.Body)
		})
	web.Query(r, http.MethodGet, "/pickers", "list-pickers", "Who may walk a round, and the rounds that each walks",
		web.Everyone,
		func(ctx context.Context, _ *struct{}) ([]Picker, error) { return listPickers(ctx, db) })
	registerRounds(r, prefix)
	registerWalking(r, look)
}

// registerRounds adds the operations of rounds as wholes.
func registerRounds(r *web.Router, prefix string) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/rounds", "list-rounds", "Rounds that are not done", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Round, error) {
			return listRounds(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/rounds/{id}", "get-round", "A round", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (Round, error) {
			return readRound(ctx, db, in.ID)
		})
	web.Command(r, "/rounds/{id}/start", "start-round", "Start walking a round", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Round, error) {
			return Start(ctx, tx, in.ID)
		})
	web.Command(r, "/rounds/{id}/reassign", "reassign-round", "Reassign a round to another person, or to nobody yet",
		web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[reassign]) (Round, error) {
			return Reassign(ctx, tx, in.ID, in.Body.PersonID)
		})
	web.Command(r, "/rounds/{id}/each-unit", "scan-each-unit", "Say whether each unit is scanned on a round",
		web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[eachUnit]) (Round, error) {
			return SetEachUnit(ctx, tx, in.ID, in.Body.EachUnit)
		})
	web.Command(r, "/rounds/{id}/whole", "pick-whole", "Pick a whole carton or pallet in one scan", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[whole]) (Round, error) {
			return PickWhole(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/rounds/{id}/other-lot", "pick-other-lot", "Pick from another lot than planned", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[otherLot]) (Round, error) {
			return OtherLot(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/rounds/{id}/confirm", "confirm-round", "Confirm a round that was walked on paper, in one step",
		web.Lead,
		func(ctx context.Context, tx *command.Tx, in *onRound[Confirmation]) (Round, error) {
			return Confirm(ctx, tx, prefix, in.ID, in.Body)
		})
	web.Paper(r, "/rounds/{id}/list.pdf", "print-pick-list", "A round as a list to walk by",
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (string, []byte, error) {
			return pickList(ctx, db, in.ID, r.Runner.Now())
		})
}

// registerWalking adds the steps of whoever walks a round.
func registerWalking(r *web.Router, look Looker) {
	db := r.Reads
	web.Command(r, "/rounds/{id}/take-off", "take-stops-off", "Take stops off a round: what was not taken there is open again",
		web.Lead,
		func(ctx context.Context, tx *command.Tx, in *onRound[struct {
			StopIDs []int64 `json:"stop_ids" minItems:"1" maxItems:"500"`
		}]) (Round, error) {
			return TakeOff(ctx, tx, in.ID, in.Body.StopIDs)
		})
	web.Query(r, http.MethodPost, "/rounds/{id}/add/preview", "preview-add-stops",
		"The stops that orders would add to a round", web.Lead,
		func(ctx context.Context, in *onRound[struct {
			OrderIDs []int64 `json:"order_ids" minItems:"1" maxItems:"500"`
		}]) (*Proposed, error) {
			return planAdding(ctx, db, in.ID, in.Body.OrderIDs, r.Runner.Now())
		})
	web.Command(r, "/rounds/{id}/add", "add-stops", "Add stops to a round that is not done", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *onRound[struct {
			Stops []Stop `json:"stops" minItems:"1" maxItems:"500"`
		}]) (Round, error) {
			return Add(ctx, tx, in.ID, in.Body.Stops)
		})
	web.Command(r, "/rounds/{id}/dissolve", "dissolve-round",
		"End a round early: what was not taken is open again, its cartons go to the bench", web.Lead,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID int64 `path:"id"`
		}) (Round, error) {
			return Dissolve(ctx, tx, in.ID)
		})
	web.Command(r, "/rounds/{id}/cartons", "open-carton", "Open a carton for an order by scanning its label",
		web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[openCarton]) (Round, error) {
			return OpenCarton(ctx, tx, in.ID, in.Body.Scan, in.Body.OrderID)
		})
	web.Query(r, http.MethodPost, "/rounds/{id}/check", "check-scans", "Whether what was scanned so far is right",
		web.Picking,
		func(ctx context.Context, in *onRound[Scans]) (Checked, error) {
			return checkScans(ctx, db, in.ID, in.Body, r.Runner.Now())
		})
	web.Command(r, "/rounds/{id}/pick", "pick", "Pick from the bin into the carton", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[Scans]) (Round, error) {
			return Pick(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/rounds/{id}/short", "report-short",
		"Say that a bin holds less than planned; other bins are proposed", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[short]) (Round, error) {
			return Short(ctx, tx, in.ID, in.Body.StopID, in.Body.Found)
		})
	web.Command(r, "/rounds/{id}/nought", "look-for-nought",
		"Say whether a bin is empty that a stop should have emptied; it is counted so", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[nought]) (Round, error) {
			return Nought(ctx, tx, in.ID, in.Body, look)
		})
	web.Query(r, http.MethodPost, "/rounds/{id}/ship/preview", "preview-ship-round",
		"What would leave straight from a round, and what stays for the bench", web.Picking,
		func(ctx context.Context, in *onRound[shipping.Terms]) (*ShipRound, error) {
			return planShipping(ctx, db, in.ID, in.Body)
		})
	web.Command(r, "/rounds/{id}/ship", "ship-round", "End a round by shipping straight from it, without the bench",
		web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[Departure]) ([]shipping.Shipment, error) {
			return Ship(ctx, tx, in.ID, in.Body)
		})
	web.Command(r, "/rounds/{id}/stage", "stage", "End a round: its cartons go to the bench", web.Picking,
		func(ctx context.Context, tx *command.Tx, in *onRound[stage]) (Round, error) {
			return Stage(ctx, tx, in.ID, in.Body.LeaveRest)
		})
}
