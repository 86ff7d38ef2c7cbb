package orders

import (
	"context"
	"fmt"
	"strconv"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/allocation"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/core/walking"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"
	"lanternrow/internal/serials"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// A Holding is stock that a line could be reserved for.
type Holding struct {
	LocationID int32           `db:"location_id" json:"location_id"`
	Location   string          `db:"location" json:"location"`
	Zone       string          `db:"zone" json:"zone"`
	Picking    bool            `db:"picking" json:"picking" doc:"In a zone that orders are picked from first"`
	Usual      bool            `db:"usual" json:"usual" doc:"One of the item's usual bins"`
	X          float64         `db:"x" json:"-"`
	Y          float64         `db:"y" json:"-"`
	LotID      *int64          `db:"lot_id" json:"lot_id"`
	Lot        string          `db:"lot" json:"lot"`
	Expires    string          `db:"expires" json:"expires"`
	Arrived    string          `db:"arrived" json:"arrived"`
	CartonID   *int64          `db:"carton_id" json:"carton_id"`
	Carton     string          `db:"carton" json:"carton"`
	Quantity   decimal.Decimal `db:"quantity" json:"quantity"`
	Available  decimal.Decimal `db:"available" json:"available" doc:"What of it is reserved for nobody"`
	// TooOld is true when its life is too short to be shipped.
	TooOld  bool     `db:"-" json:"too_old"`
	Serials []string `db:"-" json:"serials" doc:"The units that lie there and are reserved for nobody by name"`
}

// lineFacts is what reserving needs to know of a line.
type lineFacts struct {
	OrderID  int64           `db:"order_id"`
	Order    string          `db:"number"`
	State    states.Outbound `db:"state"`
	SiteID   int32           `db:"site_id"`
	ItemID   int32           `db:"item_id"`
	Due      decimal.Decimal `db:"due"`
	Reserved decimal.Decimal `db:"reserved"`
}

func readLine(ctx context.Context, q sqlx.QueryerContext, id int64) (lineFacts, error) {
	var l lineFacts
	err := sqlx.GetContext(ctx, q, &l, `
		SELECT o.id AS order_id, o.number, o.state, o.site_id, l.item_id, l.due,
		       coalesce((SELECT sum(quantity) FROM reservations WHERE line_id = l.id), 0) AS reserved
		  FROM outbound_lines l JOIN outbound_orders o ON o.id = l.order_id WHERE l.id = $1 AND l.item_id IS NOT NULL`,
		id)
	return l, documents.Found(err, "order line", fmt.Sprint(id))
}

// holdings lists what a line can be reserved for, by the withdrawal rule.
func holdings(ctx context.Context, q sqlx.QueryerContext, line int64, now time.Time) ([]Holding, error) {
	l, err := readLine(ctx, q, line)
	if err != nil {
		return nil, err
	}
	item, err := catalog.ItemByID(ctx, q, l.ItemID)
	if err != nil {
		return nil, err
	}
	bench, floor, err := catalog.BenchAndFloor(ctx, q, l.SiteID)
	if err != nil {
		return nil, err
	}
	var rows []Holding
	err = sqlx.SelectContext(ctx, q, &rows, `
		SELECT p.id AS location_id, p.code AS location, coalesce(z.name, p.kind) AS zone,
		       coalesce(z.picking, false) AS picking, coalesce(s.home_id = p.id, false) AS usual, p.x, p.y,
		       b.lot_id, coalesce(t.code, '') AS lot, coalesce(to_char(t.expires_on, 'YYYY-MM-DD'), '') AS expires,
		       coalesce(to_char(t.arrived_on, 'YYYY-MM-DD'), '') AS arrived,
		       b.carton_id, coalesce(c.sscc, '') AS carton, b.quantity, b.available
		  FROM (SELECT location_id, item_id, lot_id, carton_id, sum(quantity) AS quantity,
		    sum(quantity - reserved) AS available FROM balances
		         WHERE item_id = $2 AND condition = 'good' GROUP BY 1, 2, 3, 4) AS b
		  JOIN locations p ON p.id = b.location_id LEFT JOIN zones z ON z.id = p.zone_id
		  LEFT JOIN item_sites s ON s.item_id = b.item_id AND s.site_id = p.site_id
		  LEFT JOIN lots t ON t.id = b.lot_id LEFT JOIN cartons c ON c.id = b.carton_id
		 WHERE p.site_id = $1 AND p.kind IN ('bin', 'dock') AND b.available > 0
		   AND NOT EXISTS (SELECT FROM carton_work w WHERE w.carton_id = b.carton_id) ORDER BY p.code`,
		l.SiteID, l.ItemID)
	if err != nil {
		return nil, fmt.Errorf("reading what can be reserved: %w", err)
	}
	notBefore := now.AddDate(0, 0, item.LifeOut).Format(time.DateOnly)
	stock := make([]allocation.Stock, len(rows))
	for i, r := range rows {
		stock[i] = allocation.Stock{Key: strconv.Itoa(i), Bin: r.Location, Lot: r.Lot, Expires: r.Expires,
			Arrived: r.Arrived, Picking: r.Picking, Usual: r.Usual,
			WalkM: floor.Distance(bench.Point(), floor.Reach(walking.Point{X: r.X, Y: r.Y}))}
	}
	allocation.Withdrawal(stock, notBefore)
	out := make([]Holding, len(rows))
	for n, s := range stock {
		i, _ := strconv.Atoi(s.Key)
		out[n] = rows[i]
		out[n].TooOld, out[n].Serials = s.Expires != "" && s.Expires < notBefore, []string{}
		if item.Tracking == receiving.Serial {
			units, err := serials.At(ctx, q, ledger.Stock{Location: rows[i].LocationID, Item: item.ID,
				Lot: rows[i].LotID, Carton: rows[i].CartonID}, posting.Good)
			if err != nil {
				return nil, err
			}
			out[n].Serials = serials.Codes(units)
		}
	}
	return out, nil
}

// ReserveLine reserves exact stock for a line. What is too old to be shipped is refused, and so is
// more than the line still wants.
func ReserveLine(ctx context.Context, tx *command.Tx, line int64, in []NewReservation) (Order, error) {
	l, err := readLine(ctx, tx, line)
	if err != nil {
		return Order{}, err
	}
	if err := documents.Change(ctx, tx, documents.OutboundOrder, l.OrderID, 0, "reserved stock for it"); err != nil {
		return Order{}, err
	}
	if l, err = readLine(ctx, tx, line); err != nil {
		return Order{}, err
	}
	if l.State != states.OnHold && l.State != states.Released {
		return Order{}, refusal.New(refusal.OrderNotOpen, "",
			"%s is %s. Stock is reserved for orders that are on hold or released.", l.Order, states.Label(l.State)).Of(refusal.Conflict)
	}
	item, err := catalog.ItemByID(ctx, tx, l.ItemID)
	if err != nil {
		return Order{}, err
	}
	left := l.Due.Sub(l.Reserved)
	for i, p := range in {
		field := fmt.Sprintf("reservations[%d]", i)
		quantity, err := measure.Parse(field+".quantity", p.Quantity, item.Unit())
		if err != nil {
			return Order{}, err
		}
		if left = left.Sub(quantity); left.IsNegative() {
			return Order{}, refusal.New(refusal.OverWanted, field+".quantity",
				"%s wants %s more of %s than is reserved for it already; these come to %s too many.", l.Order, l.Due.Sub(l.Reserved), item.SKU, left.Neg()).Of(refusal.Conflict).With("wanted", l.Due.Sub(l.Reserved))
		}
		stock := ledger.Stock{Location: p.LocationID, Item: l.ItemID, Lot: p.LotID, Carton: p.CartonID}
		if err := l.mayReserve(ctx, tx, field, item, p); err != nil {
			return Order{}, err
		}
		if p.Serial != "" {
			units, err := serials.Spread(ctx, tx, field+".serial", item.Tracking, item.SKU,
				ledger.Move{Item: item.ID, Lot: p.LotID, Quantity: quantity, From: p.LocationID,
					FromBox: p.CartonID}, []string{p.Serial})
			if err != nil {
				return Order{}, err
			}
			stock.Serial = units[0].Serial
		}
		if _, err := ledger.Reserve(ctx, tx, stock, line, quantity); err != nil {
			return Order{}, err
		}
	}
	o, err := readOrder(ctx, tx, l.OrderID)
	tx.NotifySite(o.SiteID, ledger.Topics(topics...)...)
	return o, err
}

// mayReserve refuses a location of another site, and a lot that is too old to be shipped.
func (l lineFacts) mayReserve(
	ctx context.Context, tx *command.Tx, field string, item catalog.Item, p NewReservation,
) error {
	location, err := catalog.LocationByID(ctx, tx, p.LocationID)
	if err != nil {
		return err
	}
	if location.SiteID == nil || *location.SiteID != l.SiteID || location.Kind != "bin" && location.Kind != "dock" {
		return refusal.New(refusal.BinElsewhere, field+".location_id",
			"%s is no bin or dock of the site that %s goes from.", location.Code, l.Order)
	}
	if p.LotID == nil {
		return nil
	}
	var lot struct {
		Code    string
		Expires *time.Time
	}
	if err := tx.GetContext(ctx, &lot, `
		SELECT code, expires_on AS expires FROM lots WHERE id = $1`, *p.LotID); err != nil {
		return documents.Found(err, "lot", fmt.Sprint(*p.LotID))
	}
	if last := tx.Now.AddDate(0, 0, item.LifeOut).Truncate(24 * time.Hour); lot.Expires != nil &&
		lot.Expires.Before(last) {
		return refusal.New(refusal.TooOld, field+".lot_id",
			"Lot %s of %s expires on %s; %d days must be left when it is shipped. Choose another lot.", lot.Code, item.SKU, lot.Expires.Format(time.DateOnly), item.LifeOut).Of(refusal.Conflict)
	}
	return nil
}

// Unreserve unreserves stock. One that a round has belongs to the round.
func Unreserve(ctx context.Context, tx *command.Tx, id int64) (Order, error) {
	p, known, err := holdReservation(ctx, tx, id, "unreserved a reservation")
	if err != nil {
		return Order{}, err
	}
	if known {
		if err := reservation.Unreserve(ctx, tx, p, p.Quantity); err != nil {
			return Order{}, err
		}
	}
	o, err := readOrder(ctx, tx, p.OrderID)
	tx.NotifySite(o.SiteID, ledger.Topics(topics...)...)
	return o, err
}

// ChangeReservation reserves another quantity of the same stock.
func ChangeReservation(ctx context.Context, tx *command.Tx, id int64, text string) (Order, error) {
	p, known, err := holdReservation(ctx, tx, id, "changed a reservation")
	if err != nil {
		return Order{}, err
	}
	if !known {
		return Order{}, refusal.New(refusal.ReservationGone, "",
			"The reservation was unreserved meanwhile. Reserve the stock anew.").Of(refusal.Conflict)
	}
	item, err := catalog.ItemByID(ctx, tx, p.ItemID)
	if err != nil {
		return Order{}, err
	}
	quantity, err := measure.Parse("quantity", text, item.Unit())
	if err != nil {
		return Order{}, err
	}
	l, err := readLine(ctx, tx, p.LineID)
	if err != nil {
		return Order{}, err
	}
	if most := l.Due.Sub(l.Reserved).Add(p.Quantity); quantity.GreaterThan(most) {
		return Order{}, refusal.New(refusal.OverWanted, "quantity", "%s wants %s of %s at most from here, not %s.",
			l.Order, most, item.SKU, quantity).Of(refusal.Conflict).With("wanted", most)
	}
	if _, err := reservation.Renew(ctx, tx, &p.ID, p.Stock(), p.LineID, quantity); err != nil {
		return Order{}, err
	}
	o, err := readOrder(ctx, tx, p.OrderID)
	tx.NotifySite(o.SiteID, ledger.Topics(topics...)...)
	return o, err
}

// holdReservation reads a reservation by hand for a change of it; it is not known any more where it was
// unreserved while its order was held.
func holdReservation(
	ctx context.Context, tx *command.Tx, id int64, what string,
) (p reservation.Reservation, known bool, err error) {
	if p, known, err = reservation.ByID(ctx, tx, id); err != nil {
		return p, false, err
	}
	if !known {
		return p, false, documents.Missing("reservation", fmt.Sprint(id))
	}
	if err := documents.Change(ctx, tx, documents.OutboundOrder, p.OrderID, 0, what); err != nil {
		return p, false, err
	}
	// Another round may have taken it over meanwhile.
	order := p.OrderID
	if p, known, err = reservation.ByID(ctx, tx, id); err != nil {
		return p, false, err
	}
	if known && p.Round != "" {
		return p, false, refusal.New(refusal.ReservationOnRound, "",
			"%s is on round %s. Take the stop off the round, or let it be walked.", p.Location, p.Round).Of(refusal.Conflict)
	}
	p.OrderID = order
	return p, known, nil
}
