// Package row says what waits at each station: the lamps of the Row.
package row

import (
	"context"
	"fmt"
	"net/http"

	"lanternrow/internal/platform/web"
)

// A Lamp is a station's lamp.
type Lamp struct {
	Station string `json:"station"`
	// State is dark when nothing waits, lit when work waits, flare when some of
	// it is late or stuck.
	State string `json:"state" enum:"dark,lit,flare"`
	// Count is what waits or, on a flare, what is late; Words say it.
	Count int    `json:"count"`
	Words string `json:"words"`
}

// counts is every figure behind the lamps, read in one round trip.
type counts struct {
	Arrivals, Inspections, LateOrders                  int
	DockLines, DockPallets, StowWalks, DockLong        int
	OrdersOpen, OrdersLate, Rounds, Doubts, RoundsLate int
	AtBench, Packed, PackedLate, PutBacks, Off         int
}

const query = `
	SELECT (SELECT count(*) FROM arrivals WHERE state = 'open' AND site_id = $1) AS arrivals,
	       (SELECT count(*) FROM inspections WHERE state = 'waiting' AND site_id = $1) AS inspections,
	       (SELECT count(*) FROM inbound_orders WHERE state IN ('placed', 'part in') AND site_id = $1 AND expected_on < current_date) AS lateorders,
	       (SELECT count(DISTINCT (b.place_id, b.item_id, b.lot_id)) FROM balances b JOIN places p ON p.id = b.place_id WHERE p.site_id = $1 AND p.kind = 'dock' AND b.carton_id IS NULL AND b.condition = 'good') AS docklines,
	       (SELECT count(DISTINCT b.carton_id) FROM balances b JOIN places p ON p.id = b.place_id WHERE p.site_id = $1 AND p.kind = 'dock' AND b.carton_id IS NOT NULL) AS dockpallets,
	       (SELECT count(*) FROM stow_walks WHERE site_id = $1 AND done_at IS NULL) AS stowwalks,
	       (SELECT count(DISTINCT (b.place_id, b.item_id, b.lot_id)) FROM balances b JOIN places p ON p.id = b.place_id WHERE p.site_id = $1 AND p.kind = 'dock' AND b.condition = 'good'
	           AND (SELECT po.entered_at FROM moves m JOIN postings po ON po.id = m.posting_id WHERE m.to_place = b.place_id AND m.item_id = b.item_id ORDER BY m.id DESC LIMIT 1) < now() - interval '1 day') AS docklong,
	       (SELECT count(*) FROM outbound_orders WHERE state IN ('held', 'let go') AND site_id = $1) AS ordersopen,
	       (SELECT count(*) FROM outbound_orders WHERE state IN ('held', 'let go') AND site_id = $1 AND wanted_on < current_date) AS orderslate,
	       (SELECT count(*) FROM rounds WHERE state <> 'done' AND site_id = $1) AS rounds,
	       (SELECT count(*) FROM rounds WHERE state = 'let go' AND site_id = $1 AND let_go_at < now() - interval '4 hours') AS roundslate,
	       (SELECT count(*) FROM bin_doubts d JOIN places p ON p.id = d.place_id WHERE d.settled_at IS NULL AND p.site_id = $1) AS doubts,
	       (SELECT count(*) FROM carton_work WHERE state = 'at bench' AND site_id = $1) AS atbench,
	       (SELECT count(*) FROM carton_work WHERE state IN ('packed', 'loaded') AND site_id = $1) AS packed,
	       (SELECT count(*) FROM carton_work w JOIN outbound_orders o ON o.id = w.order_id WHERE w.state IN ('packed', 'loaded') AND w.site_id = $1 AND o.wanted_on < current_date) AS packedlate,
	       (SELECT count(*) FROM put_backs WHERE done_at IS NULL AND site_id = $1) AS putbacks,
	       (SELECT count(*) FROM carton_work WHERE state = 'at bench' AND off_kg IS NOT NULL AND site_id = $1) AS off`

// Register adds the operation behind the Row.
func Register(r *web.Router) {
	web.Query(r, http.MethodGet, "/row", "read-row", "The lamps of the Row", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Lamp, error) {
			var c counts
			if err := r.Reads.GetContext(ctx, &c, query, in.Site); err != nil {
				return nil, fmt.Errorf("reading the row: %w", err)
			}
			return c.lamps(), nil
		})
}

func (c counts) lamps() []Lamp {
	return []Lamp{
		lamp("receive", c.Arrivals+c.Inspections, "to do", c.LateOrders, "late"),
		lamp("putaway", c.DockLines+c.DockPallets+c.StowWalks+c.PutBacks, "to do", c.DockLong, "over a day"),
		lamp("stock", 0, "", 0, ""),
		lamp("orders", c.OrdersOpen, "open", c.OrdersLate, "late"),
		lamp("pick", c.Rounds, "round", c.RoundsLate, "waiting long"),
		lamp("pack", c.AtBench, "carton", c.Off, "off weight"),
		lamp("dispatch", c.Packed, "carton", c.PackedLate, "late"),
		lamp("transfers", 0, "", 0, ""),
		lamp("returns", 0, "", 0, ""),
		lamp("audit", c.Doubts, "to count", 0, ""),
	}
}

func lamp(station string, waiting int, noun string, stuck int, how string) Lamp {
	switch {
	case stuck > 0:
		return Lamp{station, "flare", stuck, fmt.Sprintf("%d %s", stuck, how)}
	case waiting == 0:
		return Lamp{Station: station, State: "dark"}
	}
	if waiting != 1 && noun != "open" && noun != "to do" && noun != "to count" {
		noun += "s"
	}
	return Lamp{station, "lit", waiting, fmt.Sprintf("%d %s", waiting, noun)}
}
