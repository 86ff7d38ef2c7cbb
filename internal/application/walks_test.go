package application_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"lanternrow/internal/core/walking"
	"lanternrow/internal/test/world"
)

// TestATrolleyFullIsPutAwayOnOneWalk loads three lines, two of which would like the
// same bin, and walks them.
func TestATrolleyFullIsPutAwayOnOneWalk(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "receiver")
	lot := h.Lot(t, world.Fluid, "L1", 400)
	h.Stock(t, world.Clamp, world.Dock, 30)
	h.Stock(t, world.Heavy, world.Dock, 20)
	h.StockLot(t, world.Fluid, lot, world.Dock, 10)
	good := func(item int32, lot *int64, quantity string) object {
		g := object{"location_id": world.Dock, "item_id": item, "quantity": quantity}
		if lot != nil {
			g["lot_id"] = *lot
		}
		return g
	}
	load := object{"site_id": world.Site, "goods": []object{good(world.Clamp, nil, "30"),
		good(world.Heavy, nil, "20"), good(world.Fluid, lot, "10")}}
	c.Post("/put-away/walks", object{"site_id": world.Site, "goods": []object{}}).Refused(422, "nothing_moves", "goods")
	c.Post("/put-away/walks",
		object{"site_id": world.Site,
			"goods": []object{good(world.Clamp, nil, "31")}}).Refused(409, "not_enough", "goods[0].quantity", "holds 30")
	walk := c.Post("/put-away/walks", load).JSON()
	if h.Holds(t, world.Dock, world.Clamp) != "0" || h.Holds(t, world.Trolley, world.Clamp) != "30" {
		t.Fatal("the goods are not on the trolley")
	}
	stops := walk["stops"].([]any)
	units := map[string]float64{}
	for _, s := range stops {
		var n float64
		fmt.Sscan(at(s, "quantity").(string), &n)
		if units[at(s, "bin").(string)] += n; units[at(s, "bin").(string)] > 24 {
			t.Errorf("%s would hold %v of at most 24", at(s, "bin"), units[at(s, "bin").(string)])
		}
		if (at(s, "sku") == "HZ-500") != (at(s, "bin").(string)[0] == 'B') && at(s, "sku") == "HZ-500" {
			t.Errorf("fluid goes to %s", at(s, "bin"))
		}
	}
	// The order is the shortest there is: no other order of the bins is shorter.
	floor := walking.Floor{Aisles: []float64{4, 8}, Cross: []float64{0, 10}}
	point := func(bin string) walking.Point {
		return walking.Point{X: map[byte]float64{'A': 4, 'B': 8}[bin[0]], Y: 2 * float64(bin[3]-'0')}
	}
	var points []walking.Point
	for _, s := range stops {
		points = append(points, point(at(s, "bin").(string)))
	}
	start := walking.Point{X: 4, Y: 10}
	told := walk["metres"].(float64)
	if walked := floor.Length(start, points); walked > told+0.06 {
		t.Errorf("told %v m, and the stops in their order are %v m", told, walked)
	}
	r := rand.New(rand.NewPCG(1, 1))
	for range 2000 {
		other := slices.Clone(points)
		r.Shuffle(len(other), func(i, j int) { other[i], other[j] = other[j], other[i] })
		if shorter := floor.Length(start, other); shorter < told-0.06 {
			t.Fatalf("%v m could be walked, and %v m are told", shorter, told)
		}
	}

	path := fmt.Sprintf("/put-away/walks/%d", id(walk, "id"))
	first := stops[0].(object)
	stop := object{"bin": first["bin"], "item_id": first["item_id"], "quantity": "99"}
	if first["lot_id"] != nil {
		stop["lot_id"] = first["lot_id"]
	}
	c.Post(path+"/put-away", stop).Refused(409, "not_enough", "quantity", "are on the trolley of W-701")
	stop["quantity"] = first["quantity"]
	stop["bin"] = "Z-01-1-A"
	c.Post(path+"/put-away", stop).Refused(422, "bin_elsewhere", "locations[0].bin")
	stop["bin"] = first["bin"]
	walk = c.Post(path+"/put-away", stop).JSON()
	if len(walk["stops"].([]any)) != len(stops)-1 {
		t.Errorf("%d stops are left of %d", len(walk["stops"].([]any)), len(stops))
	}
	// Another person may fill the next bin meanwhile: the rest is planned anew.
	next := at(walk, "stops", 0, "bin").(string)
	c.Post("/transfers", object{"from_id": world.Trolley, "to": "A-03-1-A", "item_id": world.Clamp,
		"quantity": "1"}).Refused(409, "on_trolley", "from_id")
	for walk["done"] == false && len(walk["stops"].([]any)) > 1 {
		s := at(walk, "stops", 0).(object)
		stop := object{"bin": s["bin"], "item_id": s["item_id"], "quantity": s["quantity"]}
		if s["lot_id"] != nil {
			stop["lot_id"] = s["lot_id"]
		}
		walk = c.Post(path+"/put-away", stop).JSON()
	}
	rest := at(walk, "stops", 0).(object)
	c.Post(path+"/put-away", object{"bin": next, "item_id": 99, "quantity": "1"}).Refused(409, "not_on_trolley",
		"item_id")
	walk = c.Post(path+"/end", nil).JSON()
	if walk["done"] != true || h.Holds(t, world.Dock, int32(id(rest, "item_id"))) != rest["quantity"] {
		t.Errorf("what was left is not back on the dock: %v", walk)
	}
	c.Post(path+"/end", nil).Refused(409, "walk_done", "")
	trail := c.Get(fmt.Sprintf("/items/%d/trail?site=1", id(rest, "item_id"))).JSON()
	if at(trail, "lines", 0, "kind") != "put_away_return" || at(trail, "lines", 0, "document") != walk["number"] {
		t.Errorf("the trail says %v", at(trail, "lines", 0))
	}
	if open := c.Get("/put-away/walks?site=1").Body; string(open) != "[]\n" {
		t.Errorf("open walks: %s", open)
	}
	h.Whole(t)
}

// TestTwoTrolleysDoNotMixTheirGoods lets two people walk with the same item.
func TestTwoTrolleysDoNotMixTheirGoods(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	one, two := world.SignOn(t, base, "receiver"), world.SignOn(t, base, "picker")
	h.Stock(t, world.Clamp, world.Dock, 10)
	begin := func(c *world.Client, quantity string) object {
		return c.Post("/put-away/walks",
			object{"site_id": 1, "goods": []object{{"location_id": world.Dock, "item_id": world.Clamp,
				"quantity": quantity}}}).JSON()
	}
	a, b := begin(one, "4"), begin(two, "6")
	two.Post(fmt.Sprintf("/put-away/walks/%d/put-away", id(b, "id")),
		object{"bin": "A-02-1-A", "item_id": world.Clamp,
			"quantity": "7"}).Refused(409, "not_enough", "quantity", "6 of HC-050 are on the trolley")
	two.Post(fmt.Sprintf("/put-away/walks/%d/put-away", id(b, "id")),
		object{"bin": "A-02-1-A", "item_id": world.Clamp, "quantity": "6"}).JSON()
	one.Post(fmt.Sprintf("/put-away/walks/%d/put-away", id(a, "id")),
		object{"bin": "A-02-1-A", "item_id": world.Clamp, "quantity": "4"}).JSON()
	if h.Holds(t, h.Bin(t, "A-02-1-A"), world.Clamp) != "10" || h.Holds(t, world.Trolley, world.Clamp) != "0" {
		t.Error("the goods did not arrive")
	}
	h.Whole(t)
}
