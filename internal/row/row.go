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
	Arrivals, Inspections, LateOrders                         int
	DockLines, DockPallets, PutAwayWalks, DockLong            int
	OrdersOpen, OrdersLate, Rounds, CountRequests, RoundsLate int
	AtBench, Packed, PackedLate, Restocks, Off                int
	Transfers, TransfersLate, Returns, ReturnsLate            int
	Refills                                                   int
}

const query = `
	SELECT (SELECT count(*) FROM arrivals WHERE state = 'open' AND site_id = $1) AS arrivals,
	       (SELECT count(*) FROM inspections WHERE state = 'waiting' AND site_id = $1) AS inspections,
	       (SELECT count(*) FROM inbound_orders WHERE state IN ('placed', 'partly_received') AND site_id = $1
	       AND kind <> 'customer_return' AND expected_on < current_date) AS lateorders,
	       (SELECT count(DISTINCT (b.location_id, b.item_id, b.lot_id)) FROM balances b
	       JOIN locations p ON p.id = b.location_id WHERE p.site_id = $1 AND p.kind = 'dock' AND b.carton_id IS NULL
	        AND b.condition = 'good') AS docklines,
	       (SELECT count(DISTINCT b.carton_id) FROM balances b JOIN locations p ON p.id = b.location_id
	       WHERE p.site_id = $1 AND p.kind = 'dock' AND b.carton_id IS NOT NULL) AS dockpallets,
	       (SELECT count(*) FROM put_away_walks WHERE site_id = $1 AND done_at IS NULL) AS putawaywalks,
	       (SELECT count(DISTINCT (b.location_id, b.item_id, b.lot_id)) FROM balances b
	       JOIN locations p ON p.id = b.location_id WHERE p.site_id = $1 AND p.kind = 'dock' AND b.condition = 'good'
	           AND (SELECT po.entered_at FROM moves m JOIN postings po ON po.id = m.posting_id
	             WHERE m.to_location = b.location_id AND m.item_id = b.item_id ORDER BY m.id DESC
	             LIMIT 1) < now() - interval '1 day') AS docklong,
	       (SELECT count(*) FROM outbound_orders WHERE state IN ('on_hold', 'released') AND site_id = $1
	       AND kind = 'sale') AS ordersopen,
	       (SELECT count(*) FROM outbound_orders WHERE state IN ('on_hold', 'released') AND site_id = $1
	       AND kind = 'sale' AND wanted_on < current_date) AS orderslate,
	       (SELECT count(*) FROM rounds WHERE state <> 'done' AND site_id = $1) AS rounds,
	       (SELECT count(*) FROM rounds WHERE state = 'released' AND site_id = $1
	       AND released_at < now() - interval '4 hours') AS roundslate,
	       (SELECT count(*) FROM (SELECT d.location_id, d.item_id FROM count_requests d JOIN locations p ON p.id = d.location_id
	           WHERE d.state = 'requested' AND p.site_id = $1
	           UNION SELECT location_id, item_id FROM counts WHERE site_id = $1 AND state IN ('counted', 'recount')
	           UNION SELECT l.location_id, coalesce(l.item_id, 0) FROM count_sheet_lines l JOIN count_sheets s ON s.id = l.sheet_id
	           WHERE s.site_id = $1 AND l.state = 'open') AS c) AS countRequests,
	       (SELECT count(*) FROM carton_work WHERE state = 'at_bench' AND site_id = $1) AS atbench,
	       (SELECT count(*) FROM carton_work WHERE state IN ('packed', 'loaded') AND site_id = $1) AS packed,
	       (SELECT count(*) FROM carton_work w JOIN outbound_orders o ON o.id = w.order_id
	       WHERE w.state IN ('packed', 'loaded') AND w.site_id = $1 AND o.wanted_on < current_date) AS packedlate,
	       (SELECT count(*) FROM restocks WHERE done_at IS NULL AND site_id = $1) AS restocks,
	       (SELECT count(*) FROM carton_work WHERE state = 'at_bench' AND variance_kg IS NOT NULL
	       AND site_id = $1) AS off,
	       (SELECT count(*) FROM outbound_orders WHERE kind = 'transfer' AND state IN ('on_hold', 'released')
	       AND $1 IN (site_id, to_site_id))
	         + (SELECT count(*) FROM inbound_orders WHERE kind = 'transfer' AND state IN ('placed', 'partly_received')
	       AND $1 IN (site_id, from_site_id))
	         + (SELECT count(*) FROM transfer_cases k JOIN inbound_lines l ON l.id = k.line_id
	              JOIN inbound_orders n ON n.id = l.order_id WHERE k.outcome IS NULL AND $1 IN (n.site_id, n.from_site_id)) AS transfers,
	       (SELECT count(*) FROM inbound_orders WHERE kind = 'transfer' AND state IN ('placed', 'partly_received')
	       AND $1 IN (site_id, from_site_id) AND expected_on < current_date) AS transferslate,
	       (SELECT count(*) FROM refills WHERE site_id = $1 AND state IN ('planned', 'walking')) AS refills,
	       (SELECT count(*) FROM inbound_orders n JOIN returns r ON r.order_id = n.id
	          JOIN LATERAL (SELECT sum(i.received) AS received, sum(y.kept) AS kept, coalesce(sum((
	               SELECT sum(quantity) FROM return_decisions WHERE line_id = i.id)), 0) AS decided
	               FROM inbound_lines i JOIN return_lines y ON y.line_id = i.id WHERE i.order_id = n.id) AS l ON true
	         WHERE n.site_id = $1 AND (n.state IN ('draft', 'placed', 'partly_received') OR l.received > l.decided
	            OR r.settled_at IS NULL AND (l.received > 0 OR l.kept > 0) AND r.gives <> 'nothing')) AS returns,
	       (SELECT count(*) FROM inbound_orders WHERE kind = 'customer_return' AND state IN ('placed', 'partly_received')
	       AND site_id = $1 AND expected_on < current_date) AS returnslate`

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
		lamp("putaway", c.DockLines+c.DockPallets+c.PutAwayWalks+c.Restocks, "to do", c.DockLong, "over a day"),
		lamp("stock", 0, "", 0, ""),
		lamp("orders", c.OrdersOpen, "open", c.OrdersLate, "late"),
		lamp("pick", c.Rounds, "round", c.RoundsLate, "waiting long"),
		lamp("pack", c.AtBench, "carton", c.Off, "to weigh again"),
		lamp("dispatch", c.Packed, "carton", c.PackedLate, "late"),
		lamp("transfers", c.Transfers+c.Refills, "open", c.TransfersLate, "late in transit"),
		lamp("returns", c.Returns, "open", c.ReturnsLate, "late"),
		lamp("audit", c.CountRequests, "to count", 0, ""),
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
