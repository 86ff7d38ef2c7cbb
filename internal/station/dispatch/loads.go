package dispatch

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lanternrow/internal/carriers"
	"lanternrow/internal/cartons"
	"lanternrow/internal/catalog"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/resolving"
	"lanternrow/internal/shipping"

	"github.com/jmoiron/sqlx"
)

const loadColumns = `
	SELECT l.id, l.number, l.site_id, l.carrier, l.vehicle, l.state, p.name AS opened_by, l.opened_at, l.left_at,
	       (SELECT count(*) FROM carton_work WHERE load_id = l.id) AS count,
	       coalesce((SELECT sum(weight_kg) FROM carton_work WHERE load_id = l.id), 0) AS weight_kg,
	       (SELECT count(*) FROM carton_work w JOIN outbound_orders o ON o.id = w.order_id WHERE w.site_id = l.site_id
	       AND w.state = 'packed' AND o.carrier = l.carrier) AS waiting
	  FROM loads l JOIN people p ON p.id = l.opened_by `

func listLoads(ctx context.Context, q sqlx.QueryerContext, site int32) ([]Load, error) {
	out := []Load{}
	if err := sqlx.SelectContext(ctx, q, &out, loadColumns+`
		WHERE l.site_id = $1 AND (l.state = 'loading' OR l.left_at > now() - interval '1 day')
		ORDER BY l.state DESC, l.id DESC LIMIT 50`, site); err != nil {
		return nil, fmt.Errorf("listing vehicles: %w", err)
	}
	for i := range out {
		out[i].Cartons = []cartons.Carton{}
	}
	return out, nil
}

func readLoad(ctx context.Context, q sqlx.QueryerContext, id int64) (Load, error) {
	var l Load
	if err := sqlx.GetContext(ctx, q, &l, loadColumns+`WHERE l.id = $1`, id); err != nil {
		return l, documents.Found(err, "vehicle", fmt.Sprint(id))
	}
	var err error
	l.Cartons, err = cartons.OnLoad(ctx, q, id)
	return l, err
}

// OpenLoad begins to load a vehicle.
func OpenLoad(ctx context.Context, tx *command.Tx, site int32, carrier, vehicle string) (Load, error) {
	if err := tx.At(ctx, site); err != nil {
		return Load{}, err
	}
	if _, err := catalog.OneLocation(ctx, tx, site, "vehicle"); err != nil {
		return Load{}, err
	}
	if err := requireCarrier(ctx, tx, site, strings.TrimSpace(carrier)); err != nil {
		return Load{}, err
	}
	var id int64
	err := tx.GetContext(ctx, &id, `
		INSERT INTO loads (site_id, carrier, vehicle, opened_by, opened_at)
		VALUES ($1, $2, $3, $4, $5) RETURNING id`,
		site, strings.TrimSpace(carrier), strings.TrimSpace(vehicle), tx.Person.ID, tx.Now)
	if err != nil {
		return Load{}, fmt.Errorf("beginning to load: %w", err)
	}
	documents.Made(tx, documents.Load, id)
	tx.NotifySite(site, "dispatch")
	return readLoad(ctx, tx, id)
}

// requireCarrier refuses a carrier that the catalog does not have and that no open order goes with.
func requireCarrier(ctx context.Context, tx *command.Tx, site int32, name string) error {
	var goes bool
	if err := tx.GetContext(ctx, &goes, `
		SELECT EXISTS (SELECT FROM outbound_orders WHERE site_id = $1 AND state = 'released' AND carrier = $2)`,
		site, name); err != nil {
		return fmt.Errorf("reading whom orders go with: %w", err)
	}
	if goes {
		return nil
	}
	return carriers.Require(ctx, tx, name)
}

// holdLoad keeps a vehicle that is being loaded as it is until the step is done.
func holdLoad(ctx context.Context, tx *command.Tx, id int64) (Load, error) {
	if err := documents.Hold(ctx, tx, documents.Own(documents.Load, id)); err != nil {
		return Load{}, err
	}
	l, err := readLoad(ctx, tx, id)
	if err != nil {
		return l, err
	}
	switch l.State {
	case states.VehicleLeft:
		return l, refusal.New(refusal.LoadLeft, "", "%s left at %s UTC. What is on it is shipped.", l.Number,
			l.LeftAt.UTC().Format("15:04")).Of(refusal.Conflict)
	case states.VehicleCancelled:
		return l, refusal.New(refusal.LoadCancelled, "", "%s is cancelled. Begin to load another vehicle.",
			l.Number).Of(refusal.Conflict)
	}
	return l, nil
}

// CancelLoad gives up a vehicle that nothing is on.
func CancelLoad(ctx context.Context, tx *command.Tx, id int64) (Load, error) {
	l, err := holdLoad(ctx, tx, id)
	if err != nil {
		return l, err
	}
	if n := len(l.Cartons); n > 0 {
		return l, refusal.New(refusal.CartonLoaded, "", "%s on %s. Take them off first, then cancel it.",
			measure.Count(n, "carton"), l.Number).Of(refusal.Conflict)
	}
	if err := documents.Step(ctx, tx, states.Vehicles, []int64{id}, states.VehicleCancelled, ""); err != nil {
		return l, err
	}
	tx.NotifySite(l.SiteID, "dispatch")
	return readLoad(ctx, tx, id)
}

// LoadScan loads what is scanned: a carton, or a pallet with all that stand on it. One of
// another carrier, or on another vehicle, is refused.
func LoadScan(ctx context.Context, tx *command.Tx, id int64, scan string) (Load, error) {
	l, err := holdLoad(ctx, tx, id)
	if err != nil {
		return l, err
	}
	found, err := scanned(ctx, tx, l.SiteID, scan)
	if err != nil {
		return l, err
	}
	vehicle, err := catalog.OneLocation(ctx, tx, l.SiteID, "vehicle")
	if err != nil {
		return l, err
	}
	ids := cartons.IDs(found)
	if err := documents.Hold(ctx, tx, documents.Own(documents.Carton, ids...)); err != nil {
		return l, err
	}
	// What was scanned is read anew now that nobody else can change it.
	if found, err = cartons.ByIDs(ctx, tx, ids); err != nil {
		return l, err
	}
	for _, c := range found {
		if err := l.takes(c); err != nil {
			return l, err
		}
	}
	moves, err := cartons.Moves(ctx, tx, vehicle.ID, ids...)
	if err != nil {
		return l, err
	}
	err = documents.Step(ctx, tx, states.Cartons, ids, states.CartonLoaded, "load_id = $4, changed_at = $5", id, tx.Now)
	if err != nil {
		return l, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Load, Document: l.Number}, moves); err != nil {
		return l, err
	}
	tx.NotifySite(l.SiteID, ledger.Topics("dispatch", "row")...)
	return readLoad(ctx, tx, id)
}

// takes refuses a carton that does not belong on the vehicle.
func (l Load) takes(c cartons.Carton) error {
	switch {
	case c.State == states.CartonLoaded && *c.LoadID == l.ID:
		return refusal.New(refusal.CartonLoaded, "scan", "Carton …%s is on this vehicle already.",
			c.SSCC[14:]).Of(refusal.Conflict)
	case c.State == states.CartonLoaded:
		return refusal.New(refusal.OtherLoad, "scan",
			"Carton …%s is on %s. Take it off there first, if it is to go here.", c.SSCC[14:], c.Load).Of(refusal.Conflict).With("load", c.Load)
	case c.State != states.CartonPacked:
		return refusal.New(refusal.CartonState, "scan", "Carton …%s is %s. Only packed cartons are loaded.",
			c.SSCC[14:], states.Label(c.State)).Of(refusal.Conflict)
	case c.Carrier != l.Carrier:
		return refusal.New(refusal.OtherCarrier, "scan",
			"Carton …%s, for %s, goes with %s. This vehicle is of %s: put the carton back.", c.SSCC[14:], c.Order, c.Carrier, l.Carrier).Of(refusal.Conflict).With("carrier", c.Carrier)
	}
	return nil
}

// scanned are the cartons that a scan is of: one, or all on a pallet.
func scanned(ctx context.Context, tx *command.Tx, site int32, scan string) ([]cartons.Carton, error) {
	read, err := resolving.Read(ctx, tx, site, scan, tx.Now)
	if err != nil {
		return nil, refusal.At(err, "scan")
	}
	label, is := read.Carton()
	if !is {
		return nil, refusal.New(refusal.WrongCarton, "scan",
			"You scanned %s, which is no carton or pallet here. Scan the label on it.", scan).Of(refusal.Conflict)
	}
	if on, err := cartons.StackedOn(ctx, tx, label.ID); err != nil || len(on) > 0 {
		return on, err
	}
	c, err := cartons.ByID(ctx, tx, label.ID)
	return []cartons.Carton{c}, err
}

// TakeOff brings cartons back from a vehicle before it leaves; all of them without a
// list.
func TakeOff(ctx context.Context, tx *command.Tx, id int64, only []int64) (Load, error) {
	l, err := holdLoad(ctx, tx, id)
	if err != nil {
		return l, err
	}
	gate, err := catalog.OneLocation(ctx, tx, l.SiteID, "staging")
	if err != nil {
		return l, err
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Carton, cartons.IDs(l.Cartons)...)); err != nil {
		return l, err
	}
	on := map[int64]bool{}
	var ids []int64
	for _, c := range l.Cartons {
		on[c.ID] = true
		if len(only) == 0 || slices.Contains(only, c.ID) {
			ids = append(ids, c.ID)
		}
	}
	for _, c := range only {
		if !on[c] {
			return l, refusal.New(refusal.CartonNotLoaded, "carton_ids",
				"One of these cartons is not on %s. Look again.", l.Number).Of(refusal.Conflict)
		}
	}
	if len(ids) == 0 {
		return l, refusal.New(refusal.NothingLoaded, "", "Nothing is on %s yet.", l.Number).Of(refusal.Conflict)
	}
	moves, err := cartons.Moves(ctx, tx, gate.ID, ids...)
	if err != nil {
		return l, err
	}
	if _, err := ledger.Post(ctx, tx, ledger.Head{Kind: posting.Unload, Document: l.Number}, moves); err != nil {
		return l, err
	}
	err = documents.Step(ctx, tx, states.Cartons, ids, states.CartonPacked, "load_id = NULL, changed_at = $4", tx.Now)
	if err != nil {
		return l, err
	}
	tx.NotifySite(l.SiteID, ledger.Topics("dispatch", "row")...)
	return readLoad(ctx, tx, id)
}

// orders are those whose cartons are on the vehicle, in their order.
func (l Load) orders() (out []int64) {
	for _, c := range l.Cartons {
		if c.OrderID != nil && !slices.Contains(out, *c.OrderID) {
			out = append(out, *c.OrderID)
		}
	}
	return out
}

// planLeave shows what a vehicle takes with it.
func planLeave(ctx context.Context, q sqlx.QueryerContext, id int64, terms shipping.Terms) (*shipping.Plan, error) {
	l, err := readLoad(ctx, q, id)
	if err != nil {
		return nil, err
	}
	if len(l.Cartons) == 0 || l.State != states.VehicleLoading {
		return nil, refusal.New(refusal.NothingLoaded, "", "Nothing is on %s that could leave.",
			l.Number).Of(refusal.Conflict)
	}
	plan := shipping.NewPlan()
	for _, order := range l.orders() {
		p, err := shipping.Preview(ctx, q, requestOf(order, &id, terms))
		if err != nil {
			return nil, err
		}
		plan.Add(p)
	}
	if l.Waiting > 0 {
		plan.Warnings = append(plan.Warnings, fmt.Sprintf("%d packed cartons of %s are on no vehicle yet.", l.Waiting,
			l.Carrier))
	}
	plan.Button = fmt.Sprintf("Depart %s with %s", l.Number, measure.Count(len(l.Cartons), "carton"))
	return plan, nil
}

// Leave ships all that is on a vehicle: a shipment for each order.
func Leave(ctx context.Context, tx *command.Tx, id int64, terms shipping.Terms) (Load, error) {
	l, err := holdLoad(ctx, tx, id)
	if err != nil {
		return l, err
	}
	if len(l.Cartons) == 0 {
		return l, refusal.New(refusal.NothingLoaded, "", "Nothing is on %s yet.", l.Number).Of(refusal.Conflict)
	}
	var requests []shipping.Request
	for _, order := range l.orders() {
		requests = append(requests, requestOf(order, &id, terms))
	}
	if err := shipping.HoldAll(ctx, tx, requests...); err != nil {
		return l, err
	}
	for _, order := range l.orders() {
		if _, err := shipping.Ship(ctx, tx, requestOf(order, &id, terms)); err != nil {
			return l, err
		}
	}
	if err := documents.Step(ctx, tx, states.Vehicles, []int64{id}, states.VehicleLeft, "left_at = $4",
		tx.Now); err != nil {
		return l, err
	}
	return readLoad(ctx, tx, id)
}
