package pick

import (
	"encoding/json"
	"time"

	"lanternrow/internal/core/states"

	"github.com/shopspring/decimal"
)

// Round is one walk by one person.
type Round struct {
	ID          int64        `db:"id" json:"id"`
	Number      string       `db:"number" json:"number"`
	SiteID      int32        `db:"site_id" json:"site_id"`
	State       states.Round `db:"state" json:"state" enum:"released,walking,done"`
	PickerID    *int32       `db:"picker_id" json:"picker_id"`
	Picker      string       `db:"picker" json:"picker"`
	Metres      float64      `db:"metres" json:"metres"`
	PlainMetres float64      `db:"plain_metres" json:"plain_metres"`
	// Minutes is how long it was calculated to take; EndsAt is when it ends if the rest of
	// it goes as expected, nil until it is begun.
	Minutes    decimal.Decimal `db:"minutes" json:"minutes"`
	EndsAt     *time.Time      `db:"ends_at" json:"ends_at"`
	Path       json.RawMessage `db:"path" json:"path"`
	ReleasedAt time.Time       `db:"released_at" json:"released_at"`
	Version    int32           `db:"version" json:"version"`
	StopCount  int             `db:"stop_count" json:"stop_count"`
	DoneCount  int             `db:"done_count" json:"done_count"`
	EachUnit   bool            `db:"each_unit" json:"each_unit" doc:"Whether each unit is scanned"`
	ScanBin    bool            `db:"scan_bin" json:"scan_bin" doc:"Whether the site has each stop's bin scanned"`
	ScanItem   bool            `db:"scan_item" json:"scan_item" doc:"Whether it has the item scanned"`
	ScanCarton bool            `db:"scan_carton" json:"scan_carton" doc:"Whether it has the carton scanned"`
	Wave       int32           `db:"wave" json:"wave" doc:"The wave that it was released with; 0 for none"`
	// NextBin is where its next stop is, LastPick when something was taken last, Short how
	// much the bins were short of.
	NextBin  string          `db:"next_bin" json:"next_bin"`
	LastPick *time.Time      `db:"last_pick" json:"last_pick"`
	Short    decimal.Decimal `db:"short" json:"short"`
	Late     bool            `db:"late" json:"late" doc:"Whether an order on it is late"`
	Stops    []RoundStop     `db:"-" json:"stops"`
	Cartons  []Carton        `db:"-" json:"cartons"`
	Orders   []RoundOrder    `db:"-" json:"orders"`
}

// RoundStop is a stop of a round that is released.
type RoundStop struct {
	ID            int64           `db:"id" json:"id"`
	Seq           int             `db:"seq" json:"seq"`
	LineID        int64           `db:"line_id" json:"line_id"`
	OrderID       int64           `db:"order_id" json:"order_id"`
	Order         string          `db:"order_number" json:"order"`
	LocationID    int32           `db:"location_id" json:"location_id"`
	Bin           string          `db:"bin" json:"bin"`
	ItemID        int32           `db:"item_id" json:"item_id"`
	SKU           string          `db:"sku" json:"sku"`
	Description   string          `db:"description" json:"description"`
	Unit          string          `db:"unit" json:"unit"`
	GTIN          *string         `db:"gtin" json:"gtin"`
	Tracking      string          `db:"tracking" json:"tracking"`
	AskLot        bool            `db:"ask_lot" json:"ask_lot" doc:"Whether the lot is scanned too: to be sure of it, or to take it down where lots are known only from here on"`
	Whole         bool            `db:"whole" json:"whole"`
	LifeOut       int             `db:"life_out" json:"-"`
	ListedUnits   []byte          `db:"units" json:"-"`
	Units         []StopUnit      `db:"-" json:"units" nullable:"false" doc:"The very units still to be taken here, where they are reserved for the order by name"`
	WholeCarton   bool            `db:"whole_carton" json:"whole_carton" doc:"Whether the whole carton or pallet can be taken in one scan"`
	CartonID      *int64          `db:"carton_id" json:"carton_id"`
	OffCarton     *string         `db:"off_carton" json:"off_carton" doc:"The carton or pallet that it is taken off"`
	Listed        []byte          `db:"serials" json:"-"`
	Serials       []string        `db:"-" json:"serials" doc:"The units that lie there, where they are known one by one"`
	LotID         *int64          `db:"lot_id" json:"lot_id"`
	Lot           *string         `db:"lot" json:"lot"`
	PlannedLot    *string         `db:"planned_lot" json:"planned_lot" doc:"The lot that was planned, where another is taken"`
	ExpiresOn     *string         `db:"expires_on" json:"expires_on"`
	ListedLots    []byte          `db:"other_lots" json:"-"`
	OtherLots     []FreeLot       `db:"-" json:"other_lots" doc:"Lots there that may be taken instead"`
	Quantity      decimal.Decimal `db:"quantity" json:"quantity"`
	Picked        decimal.Decimal `db:"picked" json:"picked"`
	Short         decimal.Decimal `db:"short" json:"short"`
	Here          decimal.Decimal `db:"here" json:"here"`
	State         states.Stop     `db:"state" json:"state" enum:"open,picked,short"`
	ReservationID *int64          `db:"reservation_id" json:"-"`
	Empties       bool            `db:"empties" json:"empties" doc:"Taking all of it leaves none of the item in the bin by the books, and the site looks then"`
	AskNought     bool            `db:"ask_nought" json:"ask_nought" doc:"All of it was taken, and by the books none of the item is left in the bin: one look says whether it is so"`
}

// StopUnit is a unit that is reserved by name for the order that a stop is for.
type StopUnit struct {
	SerialID      int64  `json:"serial_id"`
	Serial        string `json:"serial"`
	ReservationID int64  `json:"reservation_id"`
}

// FreeLot is a lot at a stop of which some is reserved for nobody.
type FreeLot struct {
	Lot       string          `json:"lot"`
	ExpiresOn *string         `json:"expires_on"`
	Free      decimal.Decimal `json:"free"`
}

// Carton is a carton on a round.
type Carton struct {
	ID      int64         `db:"id" json:"id"`
	SSCC    string        `db:"sscc" json:"sscc"`
	Letter  string        `db:"letter" json:"letter"`
	OrderID *int64        `db:"order_id" json:"order_id"`
	Order   string        `db:"order_number" json:"order"`
	State   states.Carton `db:"state" json:"state"`
}

// RoundOrder is an order that a round serves.
type RoundOrder struct {
	ID     int64  `db:"id" json:"id"`
	Number string `db:"number" json:"number"`
}
