// Package stock is the station that shows what is where, and how it came there.
package stock

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// LocationStock is a location and what lies there.
type LocationStock struct {
	Location catalog.Location `json:"location"`
	Holdings []Holding        `json:"holdings"`
}

// ItemPage is an item, its figures at a site, and where it lies.
type ItemPage struct {
	Item     catalog.Item   `json:"item"`
	Figures  ledger.Figures `json:"figures"`
	Holdings []Holding      `json:"holdings"`
}

// LotPage is a lot and where it lies.
type LotPage struct {
	ID        int64   `db:"id" json:"id"`
	Code      string  `db:"code" json:"code"`
	ItemID    int32   `db:"item_id" json:"item_id"`
	SKU       string  `db:"sku" json:"sku"`
	Item      string  `db:"item" json:"item"`
	ExpiresOn *string `db:"expires_on" json:"expires_on"`
	// Life is how much of it we had, from each change of that on.
	Life []LifePoint `db:"-" json:"life"`
}

// LifePoint is how much there is of a lot from a moment on, at all sites.
type LifePoint struct {
	At     time.Time       `db:"at" json:"at"`
	OnHand decimal.Decimal `db:"on_hand" json:"on_hand"`
	Kind   string          `db:"kind" json:"kind"`
}

// SerialPage is one unit and where it is.
type SerialPage struct {
	ID          int64  `json:"id"`
	Code        string `json:"code"`
	ItemID      int32  `json:"item_id"`
	SKU         string `json:"sku"`
	Description string `json:"description"`
	// Where says it in words; LocationID is 0 when it is in no location of ours.
	Where      string `json:"where"`
	LocationID int32  `json:"location_id"`
	// Journey is where it was, from its first move on.
	Journey []Stay `json:"journey" nullable:"false"`
}

// FloorPlan is a site drawn to scale, in metres.
type FloorPlan struct {
	Site      string       `json:"site"`
	Cross     []float64    `json:"cross"`
	Aisles    []FloorAisle `json:"aisles"`
	Bins      []FloorBin   `json:"bins"`
	Locations []FloorBin   `json:"locations"`
	Walks     []Walk       `json:"walks"`
	First     *time.Time   `json:"first" doc:"Before this nothing had moved; none while nothing has"`
}

// FloorAisle is an aisle at its position.
type FloorAisle struct {
	Code string  `db:"code" json:"code"`
	X    float64 `db:"x" json:"x"`
}

// FloorBin is a location on the plan. Full is 0 to 1, by whichever limit is nearest.
type FloorBin struct {
	ID           int32           `db:"id" json:"id"`
	Code         string          `db:"code" json:"code"`
	Kind         string          `db:"kind" json:"kind"`
	X            float64         `db:"x" json:"x"`
	Y            float64         `db:"y" json:"y"`
	Level        *int            `db:"level" json:"level"`
	Units        decimal.Decimal `db:"units" json:"units"`
	Full         float64         `db:"full_share" json:"full"`
	CountRequest bool            `db:"count_request" json:"count_request"`
}

// BinUse is what a bin saw.
type BinUse struct {
	ID int32 `db:"id" json:"id"`
	// Picks are those of the last seven days.
	Picks int `db:"picks" json:"picks"`
	// AgeDays is how long the goods lie there that came first; nil where none lie.
	AgeDays *int `db:"age_days" json:"age_days"`
}

// Walk is somebody's round on the plan.
type Walk struct {
	Round  string          `db:"round" json:"round"`
	ID     int64           `db:"id" json:"id"`
	Person string          `db:"person" json:"person"`
	State  string          `db:"state" json:"state"`
	Stops  int             `db:"stops" json:"stops"`
	Done   int             `db:"done" json:"done"`
	X      *float64        `db:"x" json:"x" doc:"Where the person was last"`
	Y      *float64        `db:"y" json:"y"`
	Path   json.RawMessage `db:"path" json:"path"`
}

type trailOf struct {
	ID   int64 `path:"id"`
	Site int32 `query:"site"`
	ledger.Filter
	Oldest bool   `query:"oldest" doc:"From the oldest move on; newest first without"`
	After  string `query:"after" maxLength:"60"`
	Limit  int    `query:"limit" default:"50" minimum:"1" maximum:"200"`
}

// registerCompare adds what differs between two instants.
func registerCompare(r *web.Router) {
	web.Query(r, http.MethodGet, "/stock/compare", "compare-stock", "What of a site, a location or an item differs between two instants, and by which moves",
		web.Everyone, func(ctx context.Context, in *struct{ Compare }) (Compared, error) {
			return compare(ctx, r.Reports, in.Compare)
		})
	web.Download(r, "/stock/compare/export", "export-stock-compare", "The same as CSV or XLSX, a line for each kind of move", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Compare
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			c, err := compare(ctx, from, in.Compare)
			return web.TableFile(ctx, "compared", in.Format)(c.table(), err)
		})
}

// Register adds the station's operations.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/floor", "read-floor", "The plan of a site, its bins and who walks there",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) (FloorPlan, error) {
			return ReadFloor(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/floor/past", "read-past-floor", "The plan of a site as it was at an instant", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32     `query:"site"`
			At   time.Time `query:"at"`
		}) (PastFloor, error) {
			return ReadPastFloor(ctx, db, in.Site, in.At)
		})
	registerCompare(r)
	web.Query(r, http.MethodGet, "/floor/uses", "read-bin-uses", "The picks of each bin, and the age of what lies there",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]BinUse, error) {
			return readUses(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/stock/zones", "read-stock-zones", "How full the zones of a site are", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]ZoneFullness, error) {
			return readZones(ctx, db, in.Site)
		})
	registerItems(r)
	registerGoods(r)
	registerTracked(r)
	registerHistory(r)
	registerTrails(r)
}

// registerItems adds the items of a site with their figures, page by page and as a file.
func registerItems(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Site int32 `query:"site"`
		ItemFilter
		Sort string `query:"sort" enum:"sku,description,unit,tracking,home,on_hand,on_hold,in_cartons,reserved,promised,free,on_order,reorder_point,bins" default:"sku"`
	}
	web.Query(r, http.MethodGet, "/stock/items", "list-stock", "The items of a site, with their figures", web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[ItemRow], error) {
			rows, err := readItems(ctx, db, in.Site, in.ItemFilter)
			if err != nil {
				return documents.Page[ItemRow]{}, err
			}
			return itemRows.Page(rows, in.Sort, in.Asked)
		})
	web.Download(r, "/stock/items/export", "export-stock-items", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "items", in.Format)(itemTable(ctx, from, in.Site, in.ItemFilter, in.Sort, in.Down))
		})
}

// registerGoods adds what lies where, and what items come to.
func registerGoods(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/locations/{id}", "get-location", "What lies in a location", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int32 `path:"id"`
		}) (out LocationStock, err error) {
			if out.Location, err = catalog.LocationByID(ctx, db, in.ID); err != nil {
				return out, err
			}
			out.Holdings, err = holdings(ctx, db, "b.location_id = $1", in.ID)
			return out, err
		})
	web.Query(r, http.MethodGet, "/items/{id}/parts", "read-figure-parts",
		"What makes up each figure of an item at a site", web.Everyone,
		func(ctx context.Context, in *struct {
			ID   int32 `path:"id"`
			Site int32 `query:"site"`
		}) ([]Part, error) {
			return PartsOf(ctx, db, in.ID, in.Site)
		})
	web.Query(r, http.MethodGet, "/items/{id}", "get-item", "An item, its figures at a site, and where it lies",
		web.Everyone,
		func(ctx context.Context, in *struct {
			ID   int32 `path:"id"`
			Site int32 `query:"site"`
		}) (out ItemPage, err error) {
			if out.Item, err = catalog.ItemByID(ctx, db, in.ID); err != nil {
				return out, err
			}
			if out.Figures, err = ledger.FiguresOf(ctx, db, in.ID, in.Site); err != nil {
				return out, err
			}
			out.Holdings, err = holdings(ctx, db, "b.item_id = $1 AND p.site_id = $2", in.ID, in.Site)
			return out, err
		})
	web.Query(r, http.MethodGet, "/items/{id}/course", "read-course",
		"What will be free of an item at a site, and when", web.Everyone,
		func(ctx context.Context, in *struct {
			ID       int32  `path:"id"`
			Site     int32  `query:"site"`
			Quantity string `query:"quantity" maxLength:"40" default:"0" doc:"How much more is wanted"`
		}) (availability.Course, error) {
			item, err := catalog.ItemByID(ctx, db, in.ID)
			if err != nil {
				return availability.Course{}, err
			}
			wanted, err := measure.ParseOrZero("quantity", in.Quantity, item.Unit())
			if err != nil {
				return availability.Course{}, err
			}
			return availability.CourseOf(ctx, db, in.ID, in.Site, wanted, r.Runner.Now())
		})
}

// registerTracked adds lots, units and what is exported.
func registerTracked(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/lots/{id}", "get-lot", "A lot and where it lies", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (LotPage, error) {
			return readLot(ctx, db, in.ID)
		})
	web.Query(r, http.MethodGet, "/load-units/{id}", "get-load-unit",
		"A carton or pallet and how far it is", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (LoadUnit, error) {
			return readLoadUnit(ctx, db, in.ID)
		})
	web.Query(r, http.MethodGet, "/serials/{id}", "get-serial", "A unit by its serial, and where it is", web.Everyone,
		func(ctx context.Context, in *struct {
			ID int64 `path:"id"`
		}) (SerialPage, error) {
			return readSerial(ctx, db, in.ID)
		})
	registerHoldings(r)
	registerStood(r)
	web.Download(r, "/stock/export", "export-stock", "What is in every bin and location of a site, as CSV or XLSX",
		exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
			Site   int32  `query:"site"`
		}) (web.File, error) {
			return web.TableFile(ctx, "stock", in.Format)(stockTable(ctx, from, in.Site))
		})
}

// registerHoldings adds what lies where, page by page and as a file.
func registerHoldings(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Of   string `query:"of" enum:"location,item,lot,carton" required:"true"`
		ID   int64  `query:"id" required:"true"`
		Site int32  `query:"site" doc:"Where an item lies"`
		Sort string `query:"sort" enum:"location,sku,description,tracked,expires,carton,condition,quantity,reserved" default:"location"`
	}
	web.Query(r, http.MethodGet, "/holdings", "list-holdings", "What lies in a location, or where an item, a lot or what a carton holds lies",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[Holding], error) {
			return listOf(in.Of).Page(ctx, db, in.Sort, in.Asked, in.ID, in.Site)
		})
	web.Download(r, "/holdings/export", "export-holdings", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "holdings", in.Format)(listOf(in.Of).Table(ctx, from, in.Sort, in.Down, in.ID, in.Site))
		})
}

// registerHistory adds the whole history of a site, page by page and as a file.
func registerHistory(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/history", "read-history", "Every move of a site", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
			ledger.Filter
			Sort  string `query:"sort" enum:"at,person,kind,sku,tracked,from,to,quantity,document,note" default:"at"`
			Down  bool   `query:"down" doc:"From the last to the first"`
			After string `query:"after" maxLength:"400"`
			Limit int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
		}) (ledger.HistoryPage, error) {
			by, err := documents.SortBy(ledger.HistoryKeys, in.Sort, in.Down, in.After)
			if err != nil {
				return ledger.HistoryPage{}, err
			}
			return readHistory(ctx, db, in.Site, in.Filter, by, in.Limit)
		})
	web.Download(r, "/history/export", "export-history", "Moves of a site as CSV or XLSX, newest first", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Site int32 `query:"site"`
			ledger.Filter
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "history", in.Format)(historyTable(ctx, from, in.Site, in.Filter))
		})
}

// registerTrails adds the trails of locations, items, lots, units and cartons.
func registerTrails(r *web.Router) {
	db := r.Reads
	trail := func(path, id, summary string, ask func(*trailOf) ledger.Question) {
		web.Query(r, http.MethodGet, path, id, summary, web.Everyone,
			func(ctx context.Context, in *trailOf) (ledger.Trail, error) {
				q := ask(in)
				q.Site, q.Filter, q.Oldest, q.After, q.Limit = in.Site, in.Filter, in.Oldest, in.After, in.Limit
				return readTrail(ctx, db, q)
			})
		web.Download(r, path+"/export", "export-"+id, summary+", as CSV or XLSX", exchange.Types,
			func(ctx context.Context, from *sqlx.DB, in *struct {
				ID     int64 `path:"id"`
				Site   int32 `query:"site"`
				Oldest bool  `query:"oldest" doc:"From the oldest move on; newest first without"`
				ledger.Filter
				Format string `query:"format" enum:"csv,xlsx" default:"csv"`
			}) (web.File, error) {
				q := ask(&trailOf{ID: in.ID})
				q.Site, q.Filter, q.Oldest = in.Site, in.Filter, in.Oldest
				return web.TableFile(ctx, "trail", in.Format)(trailTable(ctx, from, q))
			})
	}
	trail("/locations/{id}/trail", "trail-of-location", "The trail of a location",
		func(in *trailOf) ledger.Question { return ledger.Question{Location: int32(in.ID)} })
	trail("/items/{id}/trail", "trail-of-item", "The trail of an item at a site, with running balances",
		func(in *trailOf) ledger.Question { return ledger.Question{Item: int32(in.ID)} })
	trail("/lots/{id}/trail", "trail-of-lot", "The trail of a lot",
		func(in *trailOf) ledger.Question { return ledger.Question{Lot: in.ID} })
	trail("/serials/{id}/trail", "trail-of-serial", "The trail of a unit",
		func(in *trailOf) ledger.Question { return ledger.Question{Serial: in.ID} })
	trail("/cartons/{id}/trail", "trail-of-carton", "The trail of a carton",
		func(in *trailOf) ledger.Question { return ledger.Question{Carton: in.ID} })
}
