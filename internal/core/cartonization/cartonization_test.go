package cartonization

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"testing"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/test/judge"
)

var large = Size{Code: "L", SidesCm: [3]float64{60, 40, 40}, MaxKg: 30, TareKg: 1}

func words(a Answer) string {
	var out []string
	for _, c := range a.Cartons {
		var in []string
		for _, p := range c.Things {
			in = append(in, fmt.Sprintf("%d %s", p.Count, p.Key))
		}
		out = append(out, c.Size+" "+strings.Join(in, " "))
	}
	return strings.Join(out, ", ")
}

func TestWhatGoesIntoWhichCarton(t *testing.T) {
	small := Size{Code: "S", SidesCm: [3]float64{30, 20, 20}, MaxKg: 15, TareKg: 0.3}
	flat := Size{Code: "flat", SidesCm: [3]float64{80, 60, 10}, MaxKg: 10}
	for name, c := range map[string]struct {
		things []Thing
		sizes  []Size
		is     string
	}{
		"the smallest that holds it": {[]Thing{{Key: "a", Count: 2, WeightKg: 1,
			SidesCm: [3]float64{20, 20, 10}}}, []Size{large, small}, "S 2 a"},
		"eight cubes fill a carton to the brim": {[]Thing{{Key: "a", Count: 12, WeightKg: 1,
			SidesCm: [3]float64{20, 20, 20}}}, []Size{large, small}, "L 12 a"},
		"one more needs one more": {[]Thing{{Key: "a", Count: 13, WeightKg: 1,
			SidesCm: [3]float64{20, 20, 20}}}, []Size{large, small}, "L 12 a, S 1 a"},
		"weight parts what volume would not": {[]Thing{{Key: "a", Count: 3, WeightKg: 14, VolumeL: 2}},
			[]Size{large}, "L 2 a, L 1 a"},
		"a long thing is turned": {[]Thing{{Key: "rod", Count: 1, WeightKg: 1,
			SidesCm: [3]float64{5, 5, 58}}}, []Size{small, large}, "L 1 rod"},
		"too long for its volume": {[]Thing{{Key: "sheet", Count: 1, WeightKg: 1,
			SidesCm: [3]float64{70, 50, 1}}}, []Size{large, flat}, "flat 1 sheet"},
		"no one size takes both": {[]Thing{{Key: "sheet", Count: 1, WeightKg: 1,
			SidesCm: [3]float64{70, 50, 1}}, {Key: "block", Count: 1, WeightKg: 2, SidesCm: [3]float64{30, 30,
			30}}}, []Size{large, flat}, "L 1 block, flat 1 sheet"},
		"without sides, volume alone": {[]Thing{{Key: "cloth", Count: 48, WeightKg: 0.1, VolumeL: 2}},
			[]Size{large}, "L 48 cloth"},
		"fewer by looking than by the first fit": {[]Thing{{Key: "a", Count: 2, VolumeL: 1, WeightKg: 15},
			{Key: "b", Count: 1, VolumeL: 1, WeightKg: 12}, {Key: "c", Count: 2, VolumeL: 1,
				WeightKg: 9}}, []Size{large}, "L 2 a, L 1 b 2 c"},
		"nothing": {nil, []Size{large}, ""},
	} {
		a, err := Propose(c.things, c.sizes)
		if err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if got := words(a); got != c.is {
			t.Errorf("%s: %s, want %s", name, got, c.is)
		}
	}
	_, err := Propose([]Thing{{Key: "truss", Count: 1, WeightKg: 14, SidesCm: [3]float64{300, 30, 30}}}, []Size{large})
	if r := refusal.From(err); r == nil || r.Code != "thing_too_large" || !strings.Contains(r.Sentence,
		"longest side is 300 cm") {
		t.Errorf("a truss: %v", err)
	}
}

// TestNothingOverlapsAndFirstFitIsNeverBeaten lays random goods and looks at every carton:
// all is in, within its walls and its weight, and nothing lies in another thing. First-fit
// decreasing by volume with the same cartons never needs fewer.
func TestNothingOverlapsAndFirstFitIsNeverBeaten(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for i := range 150 {
		var things []Thing
		total := 0
		for k := range 1 + r.IntN(6) {
			x := Thing{Key: fmt.Sprint(k), Count: 1 + r.IntN(9), WeightKg: float64(1+r.IntN(40)) / 8,
				VolumeL: float64(1 + r.IntN(8))}
			if r.IntN(4) > 0 {
				x.SidesCm = [3]float64{float64(3 + r.IntN(28)), float64(3 + r.IntN(28)), float64(3 + r.IntN(28))}
			}
			things, total = append(things, x), total+x.Count
		}
		a, err := Propose(things, []Size{large, {Code: "S", SidesCm: [3]float64{35, 35, 30}, MaxKg: 12}})
		if err != nil {
			t.Fatal(err)
		}
		var units []unit
		for k, x := range things {
			u := unit{thing: k, weight: x.WeightKg, volume: x.VolumeL, sides: x.SidesCm}
			sort.Sort(sort.Reverse(sort.Float64Slice(u.sides[:])))
			u.volume = max(u.volume, u.sides[0]*u.sides[1]*u.sides[2]/1000)
			for range x.Count {
				units = append(units, u)
			}
		}
		sort.SliceStable(units, func(i, j int) bool { return units[i].volume > units[j].volume })
		if plain := firstFit(units, large); len(a.Cartons) > len(plain) || len(a.Cartons) < a.Least {
			t.Fatalf("case %d: %d cartons, first-fit decreasing needs %d, %d at least", i, len(a.Cartons), len(plain),
				a.Least)
		}
		in := 0
		for _, c := range a.Cartons {
			size := large
			if c.Size == "S" {
				size = Size{SidesCm: [3]float64{35, 35, 30}, MaxKg: 12}
			}
			for _, p := range c.Things {
				in += p.Count
			}
			if c.WeightKg-size.TareKg > size.MaxKg+1e-6 || c.Full > 1+1e-6 {
				t.Fatalf("case %d: %+v is too much for %s", i, c, size.Code)
			}
			for n, p := range c.Placed {
				for k := range 3 {
					if p.AtCm[k] < 0 || p.AtCm[k]+p.SidesCm[k] > size.SidesCm[k]+1e-6 {
						t.Fatalf("case %d: %+v lies beyond the wall", i, p)
					}
				}
				for _, q := range c.Placed[:n] {
					apart := false
					for k := range 3 {
						apart = apart || p.AtCm[k]+p.SidesCm[k] <= q.AtCm[k]+1e-6 ||
							q.AtCm[k]+q.SidesCm[k] <= p.AtCm[k]+1e-6
					}
					if !apart {
						t.Fatalf("case %d: %+v lies in %+v", i, p, q)
					}
				}
			}
		}
		if in != total {
			t.Fatalf("case %d: %d of %d things are in cartons", i, in, total)
		}
	}
}

// TestFewThingsNeedTheFewestCartons asks COIN-OR CBC for the least number of cartons by
// weight and volume, as a bin packing programme.
func TestFewThingsNeedTheFewestCartons(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 20))
	for i := range 12 {
		n := 6 + r.IntN(5)
		var things []Thing
		for k := range n {
			things = append(things, Thing{Key: fmt.Sprint(k), Count: 1, WeightKg: float64(4 + r.IntN(17)),
				VolumeL: float64(10 + r.IntN(45))})
		}
		a, err := Propose(things, []Size{large})
		if err != nil {
			t.Fatal(err)
		}
		most := len(a.Cartons)
		var objective, names, rows strings.Builder
		for b := range most {
			fmt.Fprintf(&objective, " + y%d", b)
			fmt.Fprintf(&names, " y%d", b)
			kg, l := "", ""
			for k, x := range things {
				kg += fmt.Sprintf(" + %g x%d_%d", x.WeightKg, k, b)
				l += fmt.Sprintf(" + %g x%d_%d", x.VolumeL, k, b)
				fmt.Fprintf(&names, " x%d_%d", k, b)
			}
			fmt.Fprintf(&rows, "%s - 30 y%d <= 0\n%s - 96 y%d <= 0\n", kg, b, l, b)
		}
		for k := range things {
			for b := range most {
				fmt.Fprintf(&rows, " + x%d_%d", k, b)
			}
			rows.WriteString(" = 1\n")
		}
		want, _ := judge.Minimum(t, fmt.Sprintf("Minimize\nobj:%s\nSubject To\n%sBinaries\n%s\nEnd\n", &objective,
			&rows, &names))
		if !a.Proven || float64(len(a.Cartons)) != math.Round(want) {
			t.Fatalf("case %d: %d cartons (proven %v), cbc finds %g", i, len(a.Cartons), a.Proven, want)
		}
	}
}

func TestTheSameThingsAreLaidTheSameWay(t *testing.T) {
	things := []Thing{{Key: "a", Count: 5, WeightKg: 1, SidesCm: [3]float64{20, 15, 10}},
		{Key: "b", Count: 9, WeightKg: 2, VolumeL: 3}}
	a, _ := Propose(things, []Size{large})
	slices.Reverse(things)
	b, _ := Propose(things, []Size{large})
	if len(a.Cartons) != len(b.Cartons) || fmt.Sprint(a.Cartons[0].Placed) != fmt.Sprint(b.Cartons[0].Placed) {
		t.Fatalf("%v and %v", a, b)
	}
}
