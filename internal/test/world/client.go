package world

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
)

// Serve serves the application on a port of its own until the test ends.
func Serve(t testing.TB, app *fiber.App) (base string) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	return ServeOn(t, app, l)
}

// ServeOn is Serve on a listener.
func ServeOn(t testing.TB, app *fiber.App, l net.Listener) (base string) {
	t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() {
		defer close(done)
		_ = app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true, GracefulContext: ctx,
			ShutdownTimeout: 2 * time.Second})
	}()
	t.Cleanup(func() { stop(); <-done })
	return "http://" + l.Addr().String()
}

// A Client is a device somebody is signed on at.
type Client struct {
	T    testing.TB
	Base string
	HTTP *http.Client
	CSRF string
	// Key is sent with the next command; a fresh one otherwise.
	Key string
	// Blunt presses without looking, for what several do at once.
	Blunt bool
}

// patience is how long a client waits for an answer; in a storm one command may be done a hundred times.
var patience = Storm(time.Minute, 10*time.Minute)

// An Answer is what a request came to.
type Answer struct {
	Status int
	Body   []byte
	t      testing.TB
}

// SignOn signs somebody on at a device of their own.
func SignOn(t testing.TB, base, login string) *Client {
	t.Helper()
	jar, _ := cookiejar.New(nil)
	c := &Client{T: t, Base: base, HTTP: &http.Client{Jar: jar, Timeout: patience}}
	var s struct{ CSRF string }
	c.Post("/session", map[string]string{"login": login, "password": Password}).Into(&s)
	c.CSRF = s.CSRF
	return c
}

// SignOnBadge signs somebody on with a badge and the house's PIN.
func SignOnBadge(t testing.TB, base, badge string) *Client {
	t.Helper()
	jar, _ := cookiejar.New(nil)
	c := &Client{T: t, Base: base, HTTP: &http.Client{Jar: jar, Timeout: patience}}
	var s struct{ CSRF string }
	c.Post("/session/badge", map[string]string{"badge": badge, "pin": Password}).Into(&s)
	c.CSRF = s.CSRF
	return c
}

// Twin is the same device, for use beside it.
func (c *Client) Twin() *Client {
	return &Client{T: c.T, Base: c.Base, HTTP: c.HTTP, CSRF: c.CSRF, Blunt: c.Blunt}
}

// Get asks.
func (c *Client) Get(path string) Answer { c.T.Helper(); return c.send(http.MethodGet, path, nil) }

// Post commands. Where it can be looked at before, it is, and what is refused then must be what is
// refused now.
func (c *Client) Post(path string, body any) Answer {
	c.T.Helper()
	if c.Blunt || c.Key != "" || !previewed.MatchString(path) {
		return c.send(http.MethodPost, path, body)
	}
	preview := path + "/preview"
	if path == "/rounds" {
		preview = "/pick/preview"
	}
	look := c.send(http.MethodPost, preview, body)
	pressed := c.send(http.MethodPost, path, body)
	if said, then := look.outcome(), pressed.outcome(); said != then && !unforeseen[then] {
		c.T.Errorf("%s: its preview said %s, and pressing %s", path, said, then)
	}
	return pressed
}

// previewed are commands with a preview of the same body.
var previewed = regexp.MustCompile(`^/(invoices|put-away/pallets|put-away|counts|counts/\d+/settle|` +
	`arrivals/\d+/receive|inspections/\d+/decide|arrivals/\d+/undo|shipments|shipments/many|loads/\d+/leave|` +
	`transfers|cartons/\d+/pack|schedules|rounds|waves|purchase-orders/\d+/(invoices|freight))$`)

// unforeseen are refusals that a preview need not make: of a page that is out of date, which its
// preview is not, and of a reason that is asked for once it is known what for.
var unforeseen = map[string]bool{"stale@version": true, "reason_missing@reason": true, "reason_short@reason": true}

// outcome is ok, or the code and field of a refusal.
func (a Answer) outcome() string {
	a.t.Helper()
	if a.Status == http.StatusOK {
		return "ok"
	}
	var p struct{ Code, Field string }
	if err := json.Unmarshal(a.Body, &p); err != nil {
		a.t.Errorf("answered %d: %s", a.Status, a.Body)
	}
	return p.Code + "@" + p.Field
}

func (c *Client) send(method, path string, body any) Answer {
	c.T.Helper()
	var reader io.Reader
	if text, raw := body.(string); raw {
		reader = strings.NewReader(text)
	} else if body != nil {
		text, err := json.Marshal(body)
		if err != nil {
			c.T.Fatal(err)
		}
		reader = bytes.NewReader(text)
	}
	r, err := http.NewRequest(method, c.Base+"/api/v1"+path, reader)
	if err != nil {
		c.T.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("X-CSRF-Token", c.CSRF)
	key := c.Key
	if key == "" {
		key = rand.Text()
	}
	c.Key = ""
	r.Header.Set("Idempotency-Key", key)
	response, err := c.HTTP.Do(r)
	if err != nil {
		c.T.Fatal(err)
	}
	return ReadAnswer(c.T, response)
}

// ReadAnswer reads what a request came to.
func ReadAnswer(t testing.TB, response *http.Response) Answer {
	t.Helper()
	defer response.Body.Close()
	text, err := io.ReadAll(response.Body)
	if err != nil {
		t.Fatal(err)
	}
	return Answer{response.StatusCode, text, t}
}

// Into reads a good answer.
func (a Answer) Into(v any) {
	a.t.Helper()
	if a.Status != http.StatusOK {
		a.t.Fatalf("answered %d: %s", a.Status, a.Body)
	}
	if err := json.Unmarshal(a.Body, v); err != nil {
		a.t.Fatal(err)
	}
}

// Code is ok for a good answer, or else that of its refusal.
func (a Answer) Code() string {
	a.t.Helper()
	if a.Status == http.StatusOK {
		return "ok"
	}
	var p struct{ Code string }
	if err := json.Unmarshal(a.Body, &p); err != nil || p.Code == "" {
		a.t.Errorf("answered %d: %s", a.Status, a.Body)
	}
	return p.Code
}

// JSON reads a good answer as it comes.
func (a Answer) JSON() (v map[string]any) { a.t.Helper(); a.Into(&v); return v }

// JSONs is the answer as a list.
func (a Answer) JSONs() (v []map[string]any) { a.t.Helper(); a.Into(&v); return v }

// Rows is the first page of a list.
func (a Answer) Rows() []map[string]any {
	a.t.Helper()
	var page struct{ Rows []map[string]any }
	a.Into(&page)
	return page.Rows
}

// Refused fails the test unless the answer is a problem document with this status,
// code and field, whose sentence has all these words.
func (a Answer) Refused(status int, code, field string, words ...string) {
	a.t.Helper()
	var p struct{ Type, Title, Code, Field, Detail string }
	if err := json.Unmarshal(a.Body, &p); err != nil {
		a.t.Fatalf("answered %d: %s", a.Status, a.Body)
	}
	if a.Status != status || p.Code != code || p.Field != field || p.Type == "" || p.Title == "" {
		a.t.Fatalf("answered %d %s at %q (%s), want %d %s at %q", a.Status, p.Code, p.Field, p.Detail, status, code,
			field)
	}
	for _, w := range words {
		if !strings.Contains(p.Detail, w) {
			a.t.Fatalf("%q does not say %q", p.Detail, w)
		}
	}
}

func init() {
	// What every request came to is for whoever runs a server, and drowns what a test says.
	slog.SetLogLoggerLevel(slog.LevelWarn)
}
