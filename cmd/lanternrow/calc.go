package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"sort"
	"strings"
	"time"

	"lanternrow/internal/core/allocation"
	"lanternrow/internal/core/batching"
	"lanternrow/internal/core/cartonization"
	"lanternrow/internal/core/counting"
	"lanternrow/internal/core/forecast"
	"lanternrow/internal/core/gs1"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/projection"
	"lanternrow/internal/core/receiving"
	"lanternrow/internal/core/refilling"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/relaying"
	"lanternrow/internal/core/returning"
	"lanternrow/internal/core/sampling"
	"lanternrow/internal/core/slotting"
	"lanternrow/internal/core/timetable"
	"lanternrow/internal/core/valuation"
	"lanternrow/internal/core/walking"

	"github.com/shopspring/decimal"
	"github.com/spf13/cobra"
)

// calculations are the core's computations as JSON in, JSON out. docs/calc.md
// describes each; their names and fields stay as they are.
var calculations = map[string]func([]byte) (any, error){
	"gs1": on(func(in struct {
		Scan  string        `json:"scan"`
		Write []gs1.Element `json:"write"`
		Today string        `json:"today"`
	}) (any, error) {
		today, err := time.Parse(time.DateOnly, in.Today)
		if err != nil {
			return nil, refusal.New(refusal.DateMalformed, "today", "%q is not a date. Write it as 2027-12-31.",
				in.Today)
		}
		if len(in.Write) > 0 {
			raw, err := gs1.Write(in.Write, today)
			return map[string]string{"raw": raw, "bracketed": gs1.Message{Elements: in.Write}.Bracketed()}, err
		}
		return gs1.Parse("scan", in.Scan, today)
	}),
	"putaway": on(func(in struct {
		Goods slotting.Goods `json:"goods"`
		Bins  []slotting.Bin `json:"bins"`
	}) (any, error) {
		return slotting.Propose(in.Goods, in.Bins)
	}),
	"allowance": on(func(in struct {
		Ordered decimal.Decimal `json:"ordered"`
		Already decimal.Decimal `json:"already"`
		Here    decimal.Decimal `json:"here"`
		Whole   bool            `json:"whole"`
		receiving.Allowance
	}) (any, error) {
		line := receiving.Incoming{Ordered: in.Ordered, Already: in.Already, Here: in.Here, Allowance: in.Allowance,
			Unit: measure.Unit{Whole: in.Whole}}
		return line.Settle(), nil
	}),
	"sampling": on(func(in struct {
		Size  int64           `json:"size"`
		Limit decimal.Decimal `json:"limit"`
		Bad   []int64         `json:"bad"`
	}) (any, error) {
		plan, err := sampling.For(in.Size, in.Limit)
		if err != nil {
			return nil, err
		}
		out := struct {
			sampling.Plan
			Passes map[int64]float64 `json:"passes"`
		}{plan, map[int64]float64{}}
		for _, bad := range in.Bad {
			if bad < 0 || bad > in.Size {
				return nil, refusal.New(refusal.BadRange, "bad", "%d of %d cannot be bad.", bad, in.Size)
			}
			out.Passes[bad], _ = plan.Passes(in.Size, bad).Float64()
		}
		return out, nil
	}),
	"freight": on(func(in struct {
		Freight decimal.Decimal `json:"freight"`
		By      string          `json:"by"`
		Lines   []struct {
			Quantity decimal.Decimal `json:"quantity"`
			Price    decimal.Decimal `json:"price"`
			WeightKg decimal.Decimal `json:"weight_kg"`
		} `json:"lines"`
	}) (any, error) {
		lines := make([]receiving.Costed, len(in.Lines))
		for i, l := range in.Lines {
			lines[i] = receiving.Costed(l)
		}
		return receiving.SpreadFreight(in.Freight, in.By, lines), nil
	}),
	"projection": on(func(in struct {
		Physical decimal.Decimal   `json:"physical"`
		Reserved decimal.Decimal   `json:"reserved"`
		Flows    []projection.Flow `json:"flows"`
		Wanted   decimal.Decimal   `json:"wanted"`
		Today    string            `json:"today"`
	}) (any, error) {
		course := projection.Follow(in.Physical, in.Reserved, in.Flows)
		return struct {
			projection.Course
			Promise string `json:"promise"`
		}{course, course.Promise(in.Wanted, in.Today)}, nil
	}),
	"value": on(func(in struct {
		Flows []valuation.Flow `json:"flows"`
	}) (any, error) {
		fifo, layers, err := valuation.FIFO(in.Flows)
		if err != nil {
			return nil, err
		}
		moving, average, err := valuation.MovingAverage(in.Flows)
		return map[string]any{"fifo": fifo, "layers": layers, "moving": moving, "average": average}, err
	}),
	"recost": on(func(in struct {
		Crossings []valuation.Crossing `json:"crossings"`
		More      []struct {
			Crossing int             `json:"crossing"`
			Amount   decimal.Decimal `json:"amount"`
		} `json:"more"`
	}) (any, error) {
		more := map[int]decimal.Decimal{}
		for _, m := range in.More {
			more[m.Crossing-1] = more[m.Crossing-1].Add(m.Amount)
		}
		out := map[string]map[int32]decimal.Decimal{}
		for method, by := range valuation.AddedBy {
			var err error
			if out[method], err = by(in.Crossings, more); err != nil {
				return nil, err
			}
		}
		return out, nil
	}),
	"minutes": on(func(in struct {
		Pace *walking.Pace `json:"pace"`
		Work walking.Work  `json:"work"`
	}) (any, error) {
		if in.Pace == nil {
			in.Pace = &walking.UsualPace
		}
		return in.Pace.Estimate(in.Work), nil
	}),
	"forecast": on(func(h forecast.House) (any, error) {
		if err := h.Check(); err != nil {
			return nil, err
		}
		out := struct {
			Ready []forecast.Ready `json:"ready"`
			Help  []forecast.Help  `json:"help"`
		}{h.Run(), []forecast.Help{}}
		for i := range h.Collections {
			out.Help = append(out.Help, h.Help(i))
		}
		return out, nil
	}),
	"allocation": on(func(in struct {
		Want  allocation.Want    `json:"want"`
		Stock []allocation.Stock `json:"stock"`
	}) (any, error) {
		return allocation.Choose(in.Want, in.Stock), nil
	}),
	"batches": on(func(in struct {
		Floor  walking.Floor    `json:"floor"`
		Start  walking.Point    `json:"start"`
		Orders []batching.Order `json:"orders"`
		Limits batching.Limits  `json:"limits"`
	}) (any, error) {
		return batching.Gather(in.Floor, in.Start, in.Orders, in.Limits)
	}),
	"refill": on(func(in struct {
		Bins    []refilling.Bin   `json:"bins"`
		Reserve []refilling.Stock `json:"reserve"`
	}) (any, error) {
		return refilling.Refill(in.Bins, in.Reserve), nil
	}),
	"relay": on(func(in struct {
		Rule     relaying.Rule     `json:"rule"`
		Received relaying.Received `json:"received"`
	}) (any, error) {
		return in.Rule.Onward(in.Received)
	}),
	"classes": on(func(in struct {
		Movers []counting.Mover `json:"movers"`
		Shares counting.Shares  `json:"shares"`
	}) (any, error) {
		return map[string]any{"ranking": counting.Classify(in.Movers, in.Shares)}, nil
	}),
	"counts": on(func(in struct {
		Past  []counting.Past           `json:"past"`
		Prior counting.Prior            `json:"prior"`
		Bins  map[string]map[string]int `json:"bins"`
	}) (any, error) {
		if err := counting.Check(in.Past, in.Prior, in.Bins); err != nil {
			return nil, err
		}
		rates, chances := counting.Learn(in.Past, in.Prior), map[string]string{}
		for bin, moves := range in.Bins {
			chances[bin] = decimal.NewFromFloat(rates.Chance(moves)).StringFixed(4)
		}
		return map[string]any{"chances": chances}, nil
	}),
	"accuracy": on(func(in struct {
		Samples []counting.Sample `json:"samples"`
		Past    []counting.Past   `json:"past"`
	}) (any, error) {
		if err := counting.CheckSamples(in.Samples); err != nil {
			return nil, err
		}
		if err := counting.Check(in.Past, counting.Common, nil); err != nil {
			return nil, err
		}
		return map[string]any{"groups": counting.Rounded(in.Samples), "causes": counting.Causes(in.Past, counting.Common)}, nil
	}),
	"recount": on(func(in struct {
		Allowance counting.Allowance      `json:"allowance"`
		Counts    []counting.ComparedWith `json:"counts"`
	}) (any, error) {
		return counting.JudgeAll(in.Allowance, in.Counts)
	}),
	"returnable": on(func(in returning.Sold) (any, error) {
		return map[string]any{"returnable": in.Returnable()}, nil
	}),
	"settlement": on(func(in struct {
		Lines  []returning.Line `json:"lines"`
		FeePct decimal.Decimal  `json:"fee_pct"`
		Taxed  bool             `json:"taxed"`
	}) (any, error) {
		if in.FeePct.IsNegative() || in.FeePct.GreaterThan(decimal.NewFromInt(100)) {
			return nil, refusal.New(refusal.PercentRange, "fee_pct", "The fee goes from 0 to 100 per cent, not %s.", in.FeePct)
		}
		return returning.Settle(in.Lines, in.FeePct, in.Taxed), nil
	}),
	"cartons": on(func(in struct {
		Things []cartonization.Thing `json:"things"`
		Sizes  []cartonization.Size  `json:"sizes"`
	}) (any, error) {
		return cartonization.Propose(in.Things, in.Sizes)
	}),
	"counting": on(func(in struct {
		Recorded []counting.Holding `json:"recorded"`
		Counted  []counting.Holding `json:"counted"`
	}) (any, error) {
		return map[string]any{"differences": counting.Compare(in.Recorded, in.Counted)}, nil
	}),
	"schedule": on(func(in struct {
		Rule  timetable.Rule `json:"rule"`
		Zone  string         `json:"zone"`
		After time.Time      `json:"after"`
		Count int            `json:"count"`
	}) (any, error) {
		clock, err := time.LoadLocation(in.Zone)
		if err != nil {
			return nil, refusal.New(refusal.TimezoneUnknown, "zone",
				"%q is not a time zone. Write it as Europe/London, or UTC.", in.Zone)
		}
		next := []time.Time{}
		for at := in.After; len(next) < min(in.Count, 100); {
			if at, err = in.Rule.Next(at, clock); err != nil {
				return nil, err
			}
			next = append(next, at)
		}
		return map[string]any{"when": in.Rule.Words(), "next": next}, nil
	}),
	"round": on(func(in struct {
		Floor walking.Floor   `json:"floor"`
		Start walking.Point   `json:"start"`
		Stops []walking.Point `json:"stops"`
	}) (any, error) {
		return walking.Shortest(in.Floor, in.Start, in.Stops)
	}),
}

func on[T any](f func(T) (any, error)) func([]byte) (any, error) {
	return func(text []byte) (any, error) {
		var in T
		d := json.NewDecoder(strings.NewReader(string(text)))
		d.DisallowUnknownFields()
		if err := d.Decode(&in); err != nil {
			return nil, fmt.Errorf("reading the input: %w", err)
		}
		return f(in)
	}
}

func calcCommand() *cobra.Command {
	var names []string
	for n := range calculations {
		names = append(names, n)
	}
	sort.Strings(names)
	return &cobra.Command{
		Use: "calc NAME < in.json > out.json", Short: "Run one computation on JSON: " + strings.Join(names, ", "),
		ValidArgs: names, Args: cobra.MatchAll(cobra.ExactArgs(1), cobra.OnlyValidArgs),
		RunE: func(cmd *cobra.Command, args []string) error {
			in, err := io.ReadAll(os.Stdin)
			if err != nil {
				return err
			}
			out, err := calculations[args[0]](in)
			if r := refusal.From(err); r != nil {
				_ = json.NewEncoder(os.Stdout).Encode(map[string]any{"refused": r.Code, "field": r.Field,
					"sentence": r.Sentence})
				cmd.SilenceErrors = true
				return errors.New(r.Sentence)
			}
			if err != nil {
				return err
			}
			e := json.NewEncoder(os.Stdout)
			e.SetIndent("", "  ")
			return e.Encode(out)
		},
	}
}
