package application_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"testing"

	"lanternrow/internal/people"
	"lanternrow/internal/test/world"
)

// operation is one of the API's, as its description tells it.
type operation struct {
	method, path, id string
	roles            people.Roles
	query            []parameter
	body             object
	// command is whether it changes something, once for each key.
	command bool
}

type parameter struct {
	name   string
	schema object
}

// described reads every operation out of the description.
func described(t *testing.T) (operations []operation, schemas object) {
	t.Helper()
	text, err := os.ReadFile(filepath.Join(root(), "docs", "openapi.json"))
	if err != nil {
		t.Fatal(err)
	}
	var doc object
	if err := json.Unmarshal(text, &doc); err != nil {
		t.Fatal(err)
	}
	for path, methods := range doc["paths"].(object) {
		for method, o := range methods.(object) {
			op := operation{method: strings.ToUpper(method), path: strings.TrimPrefix(path, "/api/v1"),
				id: at(o, "operationId").(string)}
			if d, ok := o.(object)["description"].(string); ok {
				_, list, _ := strings.Cut(strings.TrimSuffix(d, "."), "May be used by: ")
				for _, role := range strings.Split(list, ", ") {
					op.roles = append(op.roles, people.Role(role))
				}
			}
			if all, ok := o.(object)["parameters"].([]any); ok {
				for _, p := range all {
					op.command = op.command || at(p, "name") == "Idempotency-Key"
					if at(p, "in") == "query" {
						op.query = append(op.query, parameter{at(p, "name").(string), at(p, "schema").(object)})
					}
				}
			}
			if b, ok := o.(object)["requestBody"]; ok {
				op.body = at(b, "content", "application/json", "schema").(object)
			}
			operations = append(operations, op)
		}
	}
	sort.Slice(operations, func(i, j int) bool { return operations[i].id < operations[j].id })
	return operations, at(doc, "components", "schemas").(object)
}

// nonsense makes values that fit a schema more or less, as a broken or a hostile
// client might send them.
type nonsense struct {
	r       *rand.Rand
	schemas object
}

var strange = []string{"", " ", "0", "-1", "1", "3", "2.5", "1e9", "999999999999999999999", "NaN", "A-01-1-A",
	"Dock 1", "LF1", "2027-02-30", "2027-12-31", "0001-01-01",
	"'; DROP TABLE moves; --", "\x00", "\u202e", "%", "_", "null", "]C1", "(01)09521234000013", "(00)195212340000004701", "Ünïcödé", strings.Repeat("x", 300), "released", "lead", "customer"}

func (n nonsense) of(schema object, deep int) any {
	if ref, ok := schema["$ref"].(string); ok {
		schema = n.schemas[ref[strings.LastIndex(ref, "/")+1:]].(object)
	}
	kind := schema["type"]
	if kinds, ok := kind.([]any); ok {
		kind = kinds[n.r.IntN(len(kinds))]
	}
	if n.r.IntN(40) == 0 {
		kind = []any{"string", "integer", "array", "null", "boolean"}[n.r.IntN(5)]
	}
	switch kind {
	case "object":
		out := object{}
		properties, _ := schema["properties"].(object)
		for name, p := range properties {
			if n.r.IntN(12) > 0 && name != "$schema" {
				out[name] = n.of(p.(object), deep+1)
			}
		}
		return out
	case "array":
		out := []any{}
		items, _ := schema["items"].(object)
		for range n.r.IntN(4) {
			if items != nil && deep < 6 {
				out = append(out, n.of(items, deep+1))
			}
		}
		return out
	case "integer", "number":
		return []int64{0, 1, 2, 3, 4, 8, -1, 100, 1 << 31, 1<<53 - 1}[n.r.IntN(10)]
	case "boolean":
		return n.r.IntN(2) == 0
	case "null":
		return nil
	}
	if values, ok := schema["enum"].([]any); ok && n.r.IntN(8) > 0 {
		return values[n.r.IntN(len(values))]
	}
	return strange[n.r.IntN(len(strange))]
}

// TestNoOperationBreaksOnNonsense sends every operation what its schema more or less
// allows. Whatever comes, the answer is a proper one, the fault is never ours, and
// the ledger stays whole.
func TestNoOperationBreaksOnNonsense(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	c := world.SignOn(t, base, "lead")
	c.Blunt = true
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 20)
	h.Stock(t, world.Clamp, world.Dock, 20)
	buy(t, c, "42", "10")
	release(t, c, world.Clamp, "9")
	operations, schemas := described(t)
	n := nonsense{rand.New(rand.NewPCG(7, 11)), schemas}
	statuses := map[int]int{}
	for _, op := range operations {
		// Nobody is signed on yet, or nobody works here.
		if op.path == "/session" || strings.HasPrefix(op.path, "/session/") || op.path == "/first-start" {
			continue
		}
		for range world.Storm(40, 100_000/len(operations)+1) {
			path := op.path
			for strings.Contains(path, "{") {
				from, to := strings.Index(path, "{"), strings.Index(path, "}")
				path = path[:from] + fmt.Sprint([]any{1, 2, 3, 0, -5, 99, "x", "1e3", int64(1) << 62}[n.r.IntN(9)]) +
					path[to+1:]
			}
			query := url.Values{}
			for _, p := range op.query {
				query.Set(p.name, fmt.Sprint(n.of(p.schema, 0)))
			}
			if len(query) > 0 {
				path += "?" + query.Encode()
			}
			var a world.Answer
			var sent []byte
			if op.method == http.MethodGet {
				a = c.Get(path)
			} else {
				body := n.of(op.body, 0)
				sent, _ = json.Marshal(body)
				a = c.Post(path, string(sent))
			}
			statuses[a.Status]++
			var p struct{ Code, Detail string }
			switch {
			case a.Status >= 500:
				t.Fatalf("%s %s %s answered %d: %s", op.method, path, sent, a.Status, a.Body)
			case a.Status >= 400 && (json.Unmarshal(a.Body, &p) != nil || p.Code == "" || p.Detail == ""):
				t.Fatalf("%s %s %s was refused without a word: %d %s", op.method, path, sent, a.Status, a.Body)
			}
		}
	}
	t.Logf("answered: %v", statuses)
	if statuses[200] < 100 || statuses[422] < 200 {
		t.Errorf("the nonsense is not of every kind: %v", statuses)
	}
	h.Whole(t)
}

// TestEveryOperationAsksForARole goes through the description with everybody: who is
// not named there is refused, and who is not signed on gets nowhere.
func TestEveryOperationAsksForARole(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	clients := map[string]*world.Client{}
	for _, role := range world.Logins {
		clients[role] = world.SignOn(t, base, role)
		// What is sent here means nothing.
		clients[role].Blunt = true
	}
	operations, schemas := described(t)
	n := nonsense{rand.New(rand.NewPCG(5, 3)), schemas}
	for _, op := range operations {
		// Nobody is signed on yet, or nobody works here.
		if op.path == "/session" || strings.HasPrefix(op.path, "/session/") || op.path == "/first-start" {
			continue
		}
		if len(op.roles) == 0 {
			t.Errorf("%s is open to anybody", op.id)
			continue
		}
		path := strings.NewReplacer("{id}", "1", "{lot}", "1", "{item}", "1").Replace(op.path)
		ask := func(c *world.Client) world.Answer {
			if op.method == http.MethodGet {
				return c.Get(path)
			}
			return c.Post(path, n.of(op.body, 0))
		}
		for role, c := range clients {
			refused := strings.Contains(string(ask(c).Body), `"code":"role"`)
			if may := world.RolesOf(role).Has(op.roles...); may == refused {
				t.Errorf("%s: a %s is refused: %v, and the description names %v", op.id, role, refused, op.roles)
			}
		}
		if a := ask(&world.Client{T: t, Base: base, HTTP: http.DefaultClient}); a.Status != http.StatusUnauthorized {
			t.Errorf("%s answers %d to nobody", op.id, a.Status)
		}
	}
}

// TestEveryAnswerIsGuarded looks at the headers that keep a browser safe (OWASP
// secure headers), on pages, data, refusals and paths that do not exist.
func TestEveryAnswerIsGuarded(t *testing.T) {
	t.Parallel()
	_, base := serve(t)
	for path, status := range map[string]int{"/": 200, "/stock": 200, "/api/v1/row": 401, "/api/v1/nothing": 404,
		"/api/v1/health": 200, "/api/v1/openapi.json": 200} {
		r, err := http.Get(base + path)
		if err != nil {
			t.Fatal(err)
		}
		_ = r.Body.Close()
		csp := r.Header.Get("Content-Security-Policy")
		if r.StatusCode != status || !strings.Contains(csp, "default-src 'self'") ||
			!strings.Contains(csp, "frame-ancestors 'none'") || strings.Contains(csp, "unsafe-eval") ||
			r.Header.Get("X-Content-Type-Options") != "nosniff" || r.Header.Get("Referrer-Policy") == "" {
			t.Errorf("%s answers %d with %v", path, r.StatusCode, r.Header)
		}
	}
	big, err := http.Post(base+"/api/v1/session", "application/json", strings.NewReader(`{"login":"`+strings.Repeat("x", 2<<20)+`"}`))
	if err == nil {
		_ = big.Body.Close()
		if big.StatusCode != http.StatusRequestEntityTooLarge {
			t.Errorf("two megabytes for a name are answered %d", big.StatusCode)
		}
	}
	c := world.SignOn(t, base, "lead")
	cookies := c.HTTP.Jar.Cookies(must(url.Parse(base)))
	if len(cookies) != 1 {
		t.Fatalf("signing on set %d cookies", len(cookies))
	}
	r, err := http.Post(base+"/api/v1/session", "application/json", strings.NewReader(`{"login":"lead","password":"`+world.Password+`"}`))
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	if set := r.Header.Get("Set-Cookie"); !strings.Contains(set, "HttpOnly") ||
		!strings.Contains(set, "SameSite=Strict") {
		t.Errorf("the session's cookie is %q", set)
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}
