package application_test

import (
	"bytes"
	"encoding/json"
	"io"
	"maps"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lanternrow/internal/people"
	"lanternrow/internal/test/world"
)

// A front stands before a house, and deals with what is asked of it.
type front func(w http.ResponseWriter, r *http.Request, body []byte)

// fronted serves a front to which commands come, while all else goes straight to the house behind it.
func fronted(t *testing.T, behind string, command front) (base string) {
	to, err := url.Parse(behind)
	if err != nil {
		t.Fatal(err)
	}
	through := httputil.NewSingleHostReverseProxy(to)
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodPost || strings.HasPrefix(r.URL.Path, "/api/v1/session") {
			through.ServeHTTP(w, r)
			return
		}
		body, err := io.ReadAll(r.Body)
		if err != nil {
			t.Error(err)
		}
		command(w, r, body)
	}))
	t.Cleanup(server.Close)
	return server.URL
}

// An answered request, and its text.
type answered struct {
	*http.Response
	text []byte
}

// pass asks the house behind a front what the front was asked.
func pass(t *testing.T, behind string, r *http.Request, body []byte) answered {
	q, err := http.NewRequestWithContext(r.Context(), http.MethodPost, behind+r.URL.RequestURI(), bytes.NewReader(body))
	if err != nil {
		t.Error(err)
		return answered{Response: &http.Response{StatusCode: http.StatusBadGateway}}
	}
	q.Header = r.Header.Clone()
	a, err := http.DefaultClient.Do(q)
	if err != nil {
		t.Error(err)
		return answered{Response: &http.Response{StatusCode: http.StatusBadGateway}}
	}
	defer a.Body.Close()
	text, err := io.ReadAll(a.Body)
	if err != nil {
		t.Error(err)
	}
	return answered{a, text}
}

func give(w http.ResponseWriter, a answered) {
	w.Header().Set("Content-Type", a.Header.Get("Content-Type"))
	w.WriteHeader(a.StatusCode)
	_, _ = w.Write(a.text)
}

// ways go through the house; storms go along them.
var ways = map[string]func(*testing.T){
	"from arrival to invoice": TestTheWholePath,
	"a short bin":             TestAShortBinIsReplacedAndToBeCounted,
	"a transfer":              TestATransferHasTwoHalves,
	"a carton in transit":     TestACartonInTransitIsReceivedAsItIs,
	"a return":                TestTwoOfNineComeBack,
	"a repair":                TestAUnitIsRepairedOrGoesBackToItsSupplier,
	"a count of several":      TestWhatDiffersByMuchIsCountedByOthers,
	"a count sheet":           TestASheetIsCountedByItsTeams,
	"a refill":                TestPickingBinsAreRefilled,
	"a recall":                TestARecallFollowsEveryUnit,
	"an approval":             TestAnOrderIsApprovedAboveALimit,
	"requests and quotes":     TestRequestsAndQuotesBecomeOrders,
	"suppliers asked":         TestSuppliersAreAskedAndTheirAnswersCompared,
	"invoices that go along":  TestAnInvoiceGoesWithWhatIsSentAsItIsAsked,
	"a departure":             TestADepartureFollowsItsOrders,
	"a unit's way":            TestAUnitsWayIsTold,
	"from the bench":          TestFromTheBenchToTheInvoice,
	"a pallet":                TestAWholePalletIsTakenInOneScan,
	"two sites":               TestWhoMayActAtWhichSite,
	"a receipt taken back":    TestAReceiptIsTakenBackByACounterMove,
	"a day by schedule":       TestADayGoesBySchedule,
	"an order by mail":        TestAnOrderIsMailedOnceTheHostTakesIt,
	"a wave":                  TestAWaveIsGatheredIntoRounds,
	"a month between sites":   TestARandomMonthBetweenSitesAndCustomersAddsUp,
	"orders held again":       TestOrdersAreHeldAgainAndConfirmed,
	"a closed order":          TestAClosedOrderCanBeReadAndAnnotatedOnly,
	"stops added":             TestStopsAreAddedToARound,
	"stops taken off":         TestStopsAreTakenOffARound,
	"an order changed":        TestAnOrderIsChangedOnTheFloor,
	"a smaller refill":        TestAPickingBinTakesLessThanWasPlanned,
	"goods that wait":         TestGoodsWaitOnTheDockForTheRestOfTheirOrder,
	"what is known later":     TestWhatIsKnownLaterCountsAsIfItHadBeenKnown,
	"a quote renewed":         TestAQuoteIsRenewedAndADraftGoesToAnotherSupplier,
	"what is suggested":       TestWhatIsSuggestedIsOrderedPerSupplier,
	"a quote accepted":        TestAQuoteBecomesAnOrderWhileItsPricesStand,
	"lots of our own":         TestLotsAreMadeWhereTheSupplierGivesNone,
	"units on a trolley":      TestATrolleyKeepsItsUnits,
	"a reservation":           TestAReservationIsChanged,
	"what is short":           TestWhatAnOrderIsShortOfIsBoughtAndReservedForIt,
	"a count taken back":      TestACountStandsForItsMoment,
	"an inspection":           TestUnitsAreInspectedByName,
	"an emptied bin":          TestABinThatARoundEmptiedIsLookedInto,
	"a carton moved":          TestACartonMovesAsItIs,
	"an early invoice":        TestASuppliersInvoiceMayComeBeforeItsGoodsAndOverOrders,
	"goods that stay":         TestGoodsStayWithTheCustomer,
}

// alongWays walks the ways, or some of them.
func alongWays(t *testing.T, names ...string) {
	for name, way := range ways {
		if len(names) == 0 || slices.Contains(names, name) {
			t.Run(name, way)
		}
	}
}

// allBut are the names of all ways but these.
func allBut(out ...string) []string {
	return slices.DeleteFunc(slices.Sorted(maps.Keys(ways)), func(name string) bool { return slices.Contains(out, name) })
}

// inStorm is how tests of ways are served within a test of storms, by that one's name.
var inStorm = map[string]func(t *testing.T, h *world.House) (base string){}

func init() {
	inStorm["TestTheConnectionIsCutAtEachStatementOfACommand"] = cutting
	inStorm["TestTheClockStepsAllTheWhile"] = stepping
	inStorm["TestAStrangerIsRefusedWhateverTheyTry"] = watched
}

// storms are what came of them, over all ways.
var storms struct {
	sync.Mutex
	// cut are the commands that were cut, by name.
	cut            map[string]bool
	cuts, repeated int
	// tried is what was said to strangers, operation by operation.
	tried map[string]map[string]int
}

// cutting serves a house of which each command, until it is done for the first time, loses its connection to the database at
// each of its statements, one after the other: first before it is seen, then before it is answered. The device asks again under
// the same key, as ours does.
func cutting(t *testing.T, h *world.House) string {
	proxy, db := world.Proxied(t, h.Database)
	db.SetMaxOpenConns(4)
	pools := h.Pools(t)
	_ = pools.Commands.Close()
	pools.Commands = db
	behind := world.Serve(t, opened(t, h, pools).App)
	commands := commandsOf(t)
	var asking sync.Mutex
	return fronted(t, behind, func(w http.ResponseWriter, r *http.Request, body []byte) {
		name := commands.at(r.URL.RequestURI())
		storms.Lock()
		first := name != "" && !storms.cut[name]
		storms.Unlock()
		if !first {
			give(w, pass(t, behind, r, body))
			return
		}
		asking.Lock()
		defer asking.Unlock()
		before := proxy.CutEach(world.Storm(30, 1))
		for again := 0; ; again++ {
			said := pass(t, behind, r, body)
			if said.StatusCode == http.StatusServiceUnavailable && again < 300 {
				continue
			}
			if said.StatusCode >= http.StatusInternalServerError {
				t.Errorf("%s, asked %d times: %d %s", name, again+1, said.StatusCode, said.text)
			}
			storms.Lock()
			// What was refused has statements that it did not come to.
			if said.StatusCode == http.StatusOK {
				storms.cut[name] = true
			}
			storms.repeated, storms.cuts = storms.repeated+again, storms.cuts+proxy.CutEach(0)-before
			storms.Unlock()
			give(w, said)
			return
		}
	})
}

// TestTheConnectionIsCutAtEachStatementOfACommand walks through the house while the connection to the database is cut at each
// statement of each command. All comes out as the ways expect it: nothing is lost, and nothing doubled.
func TestTheConnectionIsCutAtEachStatementOfACommand(t *testing.T) {
	t.Parallel()
	storms.cut = map[string]bool{}
	t.Cleanup(func() {
		storms.Lock()
		defer storms.Unlock()
		t.Logf("%d commands were cut %d times, and asked for again %d times", len(storms.cut), storms.cuts, storms.repeated)
		if storms.cuts < len(storms.cut) {
			t.Error("that was no storm")
		}
	})
	// Numbers of lots that were made in vain are not made again, and that way expects the first.
	alongWays(t, world.Storm([]string{"a transfer", "a return"}, allBut("lots of our own"))...)
}

// comeStranger has somebody sign on as stranger who has every role, and may act at another site alone.
func comeStranger(t *testing.T, h *world.House) {
	t.Helper()
	var far int32
	if err := h.Owner.Get(&far, `
		INSERT INTO sites (id, code, name, cross_aisles) OVERRIDING SYSTEM VALUE VALUES (900, 'FAR', 'Far House', '{0,10}') RETURNING id`); err != nil {
		t.Fatal(err)
	}
	h.Owner.MustExec(`
		INSERT INTO people (name, login, roles, password_hash, badge, pin_hash, site_id, sites)
		SELECT 'A stranger', 'stranger', $2, password_hash, 'B-FAR', pin_hash, $1, ARRAY[$1::int] FROM people WHERE id = 1`,
		far, people.Every.Texts())
}

// watched serves a house in which each command is first tried by a stranger.
func watched(t *testing.T, h *world.House) string {
	comeStranger(t, h)
	behind := world.Serve(t, opened(t, h, h.Pools(t)).App)
	stranger := world.SignOn(t, behind, "stranger")
	stranger.Blunt = true
	commands := commandsOf(t)
	return fronted(t, behind, func(w http.ResponseWriter, r *http.Request, body []byte) {
		path := strings.TrimPrefix(r.URL.RequestURI(), "/api/v1")
		if name := commands.at(path); name != "" && !ofNoSite[name] {
			storms.Lock()
			if storms.tried[name] == nil {
				storms.tried[name] = map[string]int{}
			}
			storms.tried[name][stranger.Post(path, string(body)).Code()]++
			storms.Unlock()
		}
		give(w, pass(t, behind, r, body))
	})
}

// ofNoSite are commands that act at no site: at what is of all of them, or of whoever acts.
var ofNoSite = map[string]bool{"begin-recall": true, "end-recall": true, "save-view": true, "drop-view": true}

// commandPaths finds a command by the path that it is asked at.
type commandPaths map[string]*regexp.Regexp

func commandsOf(t *testing.T) commandPaths {
	out := commandPaths{}
	operations, _ := described(t)
	for _, o := range operations {
		if o.command {
			out[o.id] = regexp.MustCompile("^" + regexp.MustCompile(`\{[^}]*\}`).ReplaceAllString(o.path, `[^/?]+`) + `(\?|$)`)
		}
	}
	return out
}

func (c commandPaths) at(path string) (name string) {
	path = strings.TrimPrefix(path, "/api/v1")
	for id, p := range c {
		// The shorter pattern of two is that without a part that may be anything.
		if p.MatchString(path) && (name == "" || strings.Count(p.String(), "+") < strings.Count(c[name].String(), "+")) {
			name = id
		}
	}
	return name
}

// TestAStrangerIsRefusedWhateverTheyTry walks through the house while somebody of another site tries each command first:
// none is done.
func TestAStrangerIsRefusedWhateverTheyTry(t *testing.T) {
	t.Parallel()
	storms.tried = map[string]map[string]int{}
	t.Cleanup(func() {
		storms.Lock()
		defer storms.Unlock()
		sum := map[string]int{}
		for _, name := range slices.Sorted(maps.Keys(storms.tried)) {
			said := storms.tried[name]
			for code, n := range said {
				sum[code] += n
			}
			if said["ok"] > 0 {
				t.Errorf("a stranger was let do %s", name)
			} else if said["site_barred"] == 0 {
				text, _ := json.Marshal(said)
				t.Errorf("%s never says that the site is barred: %s", name, text)
			}
		}
		t.Logf("a stranger tried %d of %d commands, and was told %v", len(storms.tried), len(commandsOf(t)), sum)
	})
	alongWays(t, world.Storm([]string{"from arrival to invoice", "a transfer", "a return", "a count sheet", "a refill"}, nil)...)
}

// steps are how far a clock that is set again and again is wrong, each for a while.
var steps = []time.Duration{0, 6 * time.Minute, -3 * time.Minute, 90 * time.Second, -6 * time.Minute}

// stepping serves a house whose clock is set again and again, forward and back.
func stepping(t *testing.T, h *world.House) string {
	var looked atomic.Int64
	s := opened(t, h, h.Pools(t))
	s.Runner.Now = func() time.Time { return time.Now().Add(steps[int(looked.Add(1)/3)%len(steps)]) }
	return world.Serve(t, s.App)
}

// TestTheClockStepsAllTheWhile walks through the house while the server's clock is set forward and back every few commands. All
// comes out as the ways expect it.
func TestTheClockStepsAllTheWhile(t *testing.T) {
	t.Parallel()
	// Mail that was put off by a clock that was fast waits until then, and that way waits for mail.
	alongWays(t, world.Storm([]string{"from arrival to invoice", "a transfer", "a return", "a count sheet"}, allBut("an order by mail"))...)
}
