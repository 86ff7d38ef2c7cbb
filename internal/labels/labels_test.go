package labels_test

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/gs1"
	"lanternrow/internal/labels"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/standin"
	"lanternrow/internal/standin/printer"
	"lanternrow/internal/test/judge"
	"lanternrow/internal/test/world"

	"github.com/shopspring/decimal"
)

func TestMain(m *testing.M) {
	code := m.Run()
	world.Cleanup()
	os.Exit(code)
}

func act(
	t *testing.T, h *world.House, fn func(context.Context, *command.Tx) (labels.Queue, error),
) (labels.Queue, error) {
	t.Helper()
	return world.Act(h, fn)
}

// work lets the printer print what it was given, and reads what is left.
func work(t *testing.T, h *world.House) (q labels.Queue, paper int) {
	t.Helper()
	if err := standin.Outbox(h.Runner, true).Work(context.Background()); err != nil {
		t.Fatal(err)
	}
	q, err := labels.Read(context.Background(), h.App, world.Site)
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Owner.Get(&paper, `SELECT paper FROM printers`); err != nil {
		t.Fatal(err)
	}
	return q, paper
}

func printAll(t *testing.T, h *world.House) error {
	t.Helper()
	_, err := act(t, h, func(ctx context.Context, tx *command.Tx) (labels.Queue, error) {
		return labels.Print(ctx, tx, world.Site, nil)
	})
	return err
}

func tell(t *testing.T, h *world.House, paper int, answers bool) {
	t.Helper()
	_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (printer.Printer, error) {
		return printer.Tell(ctx, tx, world.Site, &paper, &answers)
	})
	if err != nil {
		t.Fatal(err)
	}
}

// ask asks for labels of fluid in lots, and of clamps, which come in boxes of 12.
func ask(t *testing.T, h *world.House, lots ...string) {
	t.Helper()
	_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
		clamp, err := catalog.ItemByID(ctx, tx, world.Clamp)
		if err != nil {
			return false, err
		}
		fluid, err := catalog.ItemByID(ctx, tx, world.Fluid)
		if err != nil {
			return false, err
		}
		goods := []labels.Goods{{Item: clamp, Quantity: decimal.NewFromInt(42)}}
		for _, lot := range lots {
			expires := time.Date(2028, 2, 29, 0, 0, 0, 0, time.UTC)
			goods = append(goods, labels.Goods{Item: fluid, Lot: lot, Expires: &expires,
				Quantity: decimal.NewFromInt(10)})
		}
		return true, labels.Ask(ctx, tx, world.Site, "A-401", goods)
	})
	if err != nil {
		t.Fatal(err)
	}
}

// askUnits asks for a label for each of these serials, and for that of a pallet.
func askUnits(t *testing.T, h *world.House, sscc string, codes ...string) {
	t.Helper()
	_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (bool, error) {
		spot, err := catalog.ItemByID(ctx, tx, world.Spot)
		if err != nil {
			return false, err
		}
		return true, labels.Ask(ctx, tx, world.Site, "A-402", []labels.Goods{{Item: spot, Serials: codes},
			{SSCC: sscc, Kind: "pallet", Contents: "3 × SP-150"}})
	})
	if err != nil {
		t.Fatal(err)
	}
}

// TestLabelsReadBackAsWhatWentIn prints labels and has another decoder (zxing-wasm)
// read the symbol off the paper; what it carries is then read by the rules of GS1.
func TestLabelsReadBackAsWhatWentIn(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	lots := []string{"VH-0933", "lot/7", "A", "ABCDEFGHIJKLMNOPQRST", "1234567890", "a.b_c+d,e:f;g<h=i>j?",
		"!\"%&'()*+,-./09"}
	ask(t, h, lots...)
	serials := []string{"LR-0101", "a", "0012x", "ABCDEFGHIJKLMNOPQRST", "!%&*+,-./:;<=>?_\""}
	sscc, err := gs1.MakeSSCC(0, "9529999", 77)
	if err != nil {
		t.Fatal(err)
	}
	askUnits(t, h, sscc, serials...)
	if err := printAll(t, h); err != nil {
		t.Fatal(err)
	}
	q, _ := work(t, h)
	if len(q.Waiting) != 0 {
		t.Fatalf("%+v", q)
	}
	var printed []papers.GoodsLabel
	for _, j := range q.Recent {
		printed = append(printed, j.Labels...)
	}
	pdf, err := papers.GoodsLabels(printed)
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	file := filepath.Join(dir, "labels.pdf")
	if err := os.WriteFile(file, pdf, 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("pdftoppm", "-r", "203", "-png", file,
		filepath.Join(dir, "page")).CombinedOutput(); err != nil {
		t.Fatalf("pdftoppm (apt-get install poppler-utils): %v %s", err, out)
	}
	images, _ := filepath.Glob(filepath.Join(dir, "page*.png"))
	if len(images) != len(printed) {
		t.Fatalf("%d labels on %d pages", len(printed), len(images))
	}
	reader := judge.NewNode(t, "read.mjs")
	seen := map[string]bool{}
	for i, image := range images {
		var read struct{ Identifier, Raw string }
		reader.Ask(t, map[string]string{"file": image}, &read)
		m, err := gs1.Parse("scan", read.Identifier+read.Raw, time.Now())
		if err != nil {
			t.Fatalf("label %d (%s) reads %q: %v", i, printed[i].Words, read, err)
		}
		if m.Symbology != "GS1 DataMatrix" || m.Bracketed() != printed[i].Words || m.Value("10") != printed[i].Lot {
			t.Errorf("label %d carries %s and says %s", i, m.Bracketed(), printed[i].Words)
		}
		switch printed[i].SKU {
		case "SP-150":
			if m.Value("01") != "09521234000044" || m.Value("21") != printed[i].Serial {
				t.Errorf("a unit's label carries %s", m.Bracketed())
			}
			seen[m.Value("21")] = true
			continue
		case "Pallet …" + sscc[14:]:
			if m.Value("00") != sscc {
				t.Errorf("the pallet's label carries %s", m.Bracketed())
			}
			seen[sscc] = true
			continue
		}
		if printed[i].SKU == "HZ-500" {
			if e := m.Find("17"); e == nil || e.Date.Format(time.DateOnly) != "2028-02-29" {
				t.Errorf("label %d carries the date %+v", i, e)
			}
			seen[m.Value("10")] = true
		} else if m.Value("01") != "09521234000020" {
			t.Errorf("a box of 12 is labelled %s", m.Value("01"))
		}
	}
	for _, lot := range append(append(lots, serials...), sscc) {
		if !seen[lot] {
			t.Errorf("no label carries %q", lot)
		}
	}
}

func TestOutOfPaperLosesNothingAndPrintsNothingTwice(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	world.Refused(t, printAll(t, h), "nothing_to_print")
	// 42 clamps are four boxes, begun ones too; 10 canisters are ten labels each.
	ask(t, h, "L1", "L2")
	tell(t, h, 9, true)
	if err := printAll(t, h); err != nil {
		t.Fatal(err)
	}
	q, paper := work(t, h)
	if paper != 0 || len(q.Waiting) != 2 || len(q.Recent) != 1 {
		t.Fatalf("%+v", q)
	}
	// What comes behind waits until what stopped has gone through.
	if j := q.Waiting[0]; j.Printed != 5 || !j.Sent || j.Stopped != "out of paper after 5 of 10" ||
		q.Waiting[1].Printed != 0 || !q.Waiting[1].Sent {
		t.Fatalf("stopped at %+v", q.Waiting)
	}
	// Pressed again without paper: nothing comes out.
	if err := printAll(t, h); err != nil {
		t.Fatal(err)
	}
	if q, _ = work(t, h); q.Waiting[0].Printed != 5 || q.Waiting[0].Stopped != "out of paper after 0 of 5" {
		t.Fatalf("%+v", q.Waiting)
	}
	// It does not answer: it is tried again after a pause, and on its own once it does.
	tell(t, h, 200, false)
	if q, _ = work(t, h); q.Waiting[0].Stopped != "the printer does not answer" {
		t.Fatalf("%+v", q.Waiting)
	}
	tell(t, h, 200, true)
	if q, paper = work(t, h); paper != 185 || len(q.Waiting) != 0 || len(q.Recent) != 3 {
		t.Fatalf("the rest, with %d left: %+v", paper, q)
	}
	var printed int
	if err := h.Owner.Get(&printed, `SELECT sum(printed) FROM print_jobs`); err != nil || printed != 24 {
		t.Errorf("%d labels were printed of 24 (%v)", printed, err)
	}
	job := q.Recent[0].ID
	q, err := act(t, h, func(ctx context.Context, tx *command.Tx) (labels.Queue, error) {
		return labels.Again(ctx, tx, world.Site, job, 2)
	})
	if err != nil || len(q.Waiting) != 1 || q.Waiting[0].Copies != 2 {
		t.Fatalf("again: %+v %v", q.Waiting, err)
	}
	waiting := q.Waiting[0].ID
	leave := func(ctx context.Context, tx *command.Tx) (labels.Queue, error) {
		return labels.Discard(ctx, tx, world.Site, waiting)
	}
	if q, err = act(t, h, leave); err != nil || len(q.Waiting) != 0 {
		t.Fatalf("left out: %+v %v", q.Waiting, err)
	}
	_, err = act(t, h, leave)
	world.Refused(t, err, "unknown", "waiting label")
	for _, n := range []int{0, 201} {
		_, err = act(t, h, func(ctx context.Context, tx *command.Tx) (labels.Queue, error) {
			return labels.Again(ctx, tx, world.Site, job, n)
		})
		world.Refused(t, err, "label_count", fmt.Sprint(n))
	}
}

// TestTwoWhoPrintAtOncePrintEachLabelOnce lets eight press the button together.
func TestTwoWhoPrintAtOncePrintEachLabelOnce(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	ask(t, h, "L1", "L2", "L3")
	done := make(chan error, 8)
	for range 8 {
		go func() {
			_, err := world.Act(h, func(ctx context.Context, tx *command.Tx) (labels.Queue, error) {
				return labels.Print(ctx, tx, world.Site, nil)
			})
			done <- err
		}()
	}
	for range 8 {
		if err := <-done; err != nil {
			t.Error(err)
		}
	}
	// And eight workers print.
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if err := standin.Outbox(h.Runner, true).Work(context.Background()); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	var printed, paper int
	if err := h.Owner.QueryRow(`
		SELECT (SELECT sum(printed) FROM print_jobs), (SELECT paper FROM printers)`).Scan(
		&printed, &paper); err != nil || printed != 34 || paper != 166 {
		t.Errorf("%d labels were printed, %d are left (%v)", printed, paper, err)
	}
}

// TestLabelsOfGoodsTakenBackDoNotComeOut stops a printer half-way through a job and takes
// the goods back: the sheet that it has is recalled, and the next job comes out.
func TestLabelsOfGoodsTakenBackDoNotComeOut(t *testing.T) {
	t.Parallel()
	h := world.New(t)
	ask(t, h, "L1", "L2")
	tell(t, h, 9, true)
	if err := printAll(t, h); err != nil {
		t.Fatal(err)
	}
	q, _ := work(t, h)
	if len(q.Waiting) != 2 || q.Waiting[0].Printed != 5 {
		t.Fatalf("not stopped half-way: %+v", q.Waiting)
	}
	q, err := act(t, h, func(ctx context.Context, tx *command.Tx) (labels.Queue, error) {
		lot := "L1"
		if err := labels.Withdraw(ctx, tx, "A-401", "HZ-500", &lot, nil); err != nil {
			return labels.Queue{}, err
		}
		return labels.Read(ctx, tx, world.Site)
	})
	if err != nil || len(q.Waiting) != 1 || q.Waiting[0].Copies != 10 {
		t.Fatalf("withdrawn: %+v %v", q.Waiting, err)
	}
	tell(t, h, 200, true)
	q, paper := work(t, h)
	if paper != 190 || len(q.Waiting) != 0 {
		t.Fatalf("%d labels of paper are left of 200 after 10 of L2: %+v", paper, q.Waiting)
	}
}
