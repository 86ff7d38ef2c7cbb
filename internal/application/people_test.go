package application_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/application"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/staff"
	"lanternrow/internal/test/world"
)

// door is a device that nobody is signed on at.
func door(t *testing.T, base string) *world.Client {
	t.Helper()
	return &world.Client{T: t, Base: base, HTTP: &http.Client{Jar: must(cookiejar.New(nil)), Timeout: time.Minute}}
}

// signOn signs somebody on at a device with a password.
func signOn(c *world.Client, login, password string) object {
	s := c.Post("/session", object{"login": login, "password": password}).JSON()
	c.CSRF = s["csrf"].(string)
	return s
}

// refusedField is the field that an answer refuses.
func refusedField(a world.Answer) string {
	var p struct{ Field string }
	_ = json.Unmarshal(a.Body, &p)
	return p.Field
}

// TestALeadSaysWhoWorksHere adds somebody, who changes what they were given before anything else; gives rights, which count
// at once; and shuts out who left, whose name stays.
func TestALeadSaysWhoWorksHere(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead, picker := world.SignOn(t, base, "lead"), world.SignOn(t, base, "picker")
	picker.Get("/people").Refused(403, "role", "")
	picker.Post("/people", object{"name": "X", "login": "x", "roles": []string{"lead"}, "site_id": 1, "sites": []int{}}).Refused(403, "role", "")
	ana := func(more object) object {
		out := object{"name": "Ana  Quill", "login": " Ana ", "roles": []string{"picker"}, "site_id": 1, "sites": []int{1}, "badge": "b-900",
			"password": "a first word or two", "pin": "4071"}
		for k, v := range more {
			out[k] = v
		}
		return out
	}
	for field, more := range map[string]object{"password": {"password": "short"}, "pin": {"pin": "1234"}, "login": {"login": "lead"},
		"badge": {"badge": "B-001"}, "site_id": {"sites": []int{2}}, "sites": {"sites": []int{1, 99}}, "name": {"name": " "}} {
		if a := lead.Post("/people", ana(more)); a.Status < 400 || refusedField(a) != field {
			t.Errorf("with a wrong %s it is answered %d %s", field, a.Status, a.Body)
		}
	}
	m := lead.Post("/people", ana(nil)).JSON()
	path := fmt.Sprintf("/people/%d", id(m, "id"))
	if m["name"] != "Ana Quill" || m["login"] != "ana" || m["badge"] != "B-900" || m["password_given"] != true || m["pin_given"] != true {
		t.Fatalf("she is %v", m)
	}
	// What she was given is good for choosing one of her own, and for nothing else.
	hers := door(t, base)
	if s := signOn(hers, "ana", "a first word or two"); at(s, "person", "must_change") != "password" {
		t.Fatalf("signed on she is %v", s)
	}
	hers.Get("/row?site=1").Refused(403, "secret_given", "", "password")
	change := func(what, old, fresh string) world.Answer {
		return hers.Post("/session/secret", object{"what": what, "old": old, "fresh": fresh})
	}
	change("password", "not that", "words of her own").Refused(403, "wrong_secret", "old")
	change("password", "a first word or two", "a first word or two").Refused(422, "secret_weak", "fresh")
	change("password", "a first word or two", "ana ana ana ana").Refused(422, "secret_weak", "fresh", "ana")
	change("password", "a first word or two", "words of her own").JSON()
	hers.Get("/row?site=1").JSONs()
	byBadge := door(t, base)
	if s := byBadge.Post("/session/badge", object{"badge": "B-900", "pin": "4071"}).JSON(); at(s, "person", "must_change") != "pin" {
		t.Errorf("with her badge she is %v", s)
	}
	// Rights that change count at once: she signs on anew.
	m = lead.Get(path).JSON()
	wish := object{"version": 1, "name": "Ana Quill", "login": "ana", "roles": []string{"receiver"}, "site_id": 1, "sites": []int{1}, "badge": "B-900"}
	lead.Post(path, wish).Refused(409, "stale", "version", "Ana Quill")
	wish["version"] = m["version"]
	lead.Post(path, wish).JSON()
	eventually(t, func() object { return object{"status": float64(hers.Get("/row?site=1").Status)} },
		func(o object) bool { return o["status"] == 401.0 })
	signOn(hers, "ana", "words of her own")
	// Signing on again at a device ends the session that was there.
	if n := len(lead.Get("/sessions?person=" + fmt.Sprint(m["id"])).JSONs()); n != 1 {
		t.Fatalf("she has %d sessions", n)
	}
	signOn(hers, "ana", "words of her own")
	on := lead.Get("/sessions?person=" + fmt.Sprint(m["id"])).JSONs()
	if len(on) != 1 || on[0]["address"] != "127.0.0.1" || on[0]["device"] == "" {
		t.Errorf("signed on twice at a device she has %v", on)
	}
	if pdf := lead.Get(path + "/badge.pdf"); pdf.Status != 200 || !strings.HasPrefix(string(pdf.Body), "%PDF") {
		t.Errorf("her badge is %d", pdf.Status)
	}
	picker.Get(path+"/badge.pdf").Refused(403, "role", "")
	// Who left signs on no more.
	lead.Post(path+"/end", object{}).JSON()
	lead.Post(path+"/end", object{}).Refused(409, "person_over", "", "left already")
	door(t, base).Post("/session", object{"login": "ana", "password": "words of her own"}).Refused(401, "wrong_secret", "login")
	if len(lead.Get("/sessions?person="+fmt.Sprint(m["id"])).JSONs()) != 0 {
		t.Error("she is signed on still")
	}
	lead.Post(path+"/return", object{}).JSON()
	door(t, base).Post("/session", object{"login": "ana", "password": "words of her own"}).Refused(401, "wrong_secret", "login")
	lead.Post(path+"/secret", object{"what": "password", "secret": "another first word"}).JSON()
	signOn(door(t, base), "ana", "another first word")
	var kinds []string
	for _, e := range lead.Get("/access-events?limit=200&person=" + fmt.Sprint(m["id"])).JSON()["rows"].([]any) {
		kinds = append(kinds, at(e, "kind").(string))
	}
	for _, want := range []string{"person_added", "signed_on", "password_set", "sign_on_failed", "person_changed", "badge_printed",
		"person_ended", "person_returned"} {
		if !strings.Contains(fmt.Sprint(kinds), want) {
			t.Errorf("%s is not among %v", want, kinds)
		}
	}
	for _, forged := range []string{`DELETE FROM access_events`, `UPDATE access_events SET detail = ''`, `TRUNCATE access_events`} {
		if _, err := h.App.ExecContext(context.Background(), forged); err == nil {
			t.Errorf("the application may %s", forged)
		}
		if _, err := h.Owner.ExecContext(context.Background(), forged); err == nil {
			t.Errorf("the owner may %s", forged)
		}
	}
	if csv := lead.Get("/access-events/export?q=ana"); !strings.Contains(string(csv.Body), "person_added") {
		t.Errorf("the file of events is %s", csv.Body)
	}
}

// TestTheHouseKeepsALead refuses to take the last lead away who may act everywhere, and keeps a lead of one site from
// giving rights at others.
func TestTheHouseKeepsALead(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	me := func() object { return lead.Get("/people/1").JSON() }
	wish := func(m object, more object) object {
		out := object{"version": m["version"], "name": m["name"], "login": m["login"], "roles": m["roles"], "site_id": 1, "sites": m["sites"],
			"badge": m["badge"]}
		for k, v := range more {
			out[k] = v
		}
		return out
	}
	lead.Post("/people/1/end", object{}).Refused(409, "person_over", "", "This is you")
	lead.Post("/people/1", wish(me(), object{"roles": []string{"viewer"}})).Refused(409, "last_lead", "roles")
	lead.Post("/people/1", wish(me(), object{"sites": []int{1}})).Refused(409, "last_lead", "roles")
	lead.Post("/people", object{"name": "Bo Marsh", "login": "bo", "roles": []string{"lead"}, "site_id": 1, "sites": []int{1},
		"password": "north of the river"}).JSON()
	h.Owner.MustExec(`UPDATE people SET password_given = false WHERE login = 'bo'`)
	bo := door(t, base)
	signOn(bo, "bo", "north of the river")
	viewer := lead.Get("/people/5").JSON()
	bo.Post("/people/5", wish(viewer, object{"roles": []string{"lead"}})).Refused(403, "site_barred", "sites", "cannot let others act at all")
	bo.Post("/people/5", wish(viewer, object{"sites": []int{1}})).Refused(403, "site_barred", "sites")
	bo.Post("/people/1/secret", object{"what": "password", "secret": "now it is mine alone"}).Refused(403, "site_barred", "sites")
	// A session that nobody uses ends.
	idle := door(t, base)
	signOn(idle, "bo", "north of the river")
	h.Owner.MustExec(`UPDATE sessions SET seen_at = now() - interval '3 hours'`)
	idle.Get("/row?site=1").Refused(401, "signed_out", "")
}

// TestAnEmptyHouseIsFounded opens the first page with the code that the server printed, once.
func TestAnEmptyHouseIsFounded(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	anybody := door(t, base)
	first := object{"code": "", "site_code": "HAR", "site_name": "Harbour Street", "timezone": "Europe/London", "name": "Ines Calloway",
		"login": "ines", "password": "lamps along the quay"}
	if code, err := staff.OpenDoor(context.Background(), h.App); err != nil || code != "" {
		t.Fatalf("a house with people is opened by %q: %v", code, err)
	}
	anybody.Post("/first-start", first).Refused(409, "house_founded", "")
	h.Owner.MustExec(`ALTER TABLE people DISABLE TRIGGER USER; DELETE FROM people`)
	if anybody.Get("/first-start").JSON()["open"] != true {
		t.Fatal("an empty house is not open")
	}
	code, err := staff.OpenDoor(context.Background(), h.App)
	if err != nil || code == "" {
		t.Fatal(code, err)
	}
	anybody.Post("/first-start", first).Refused(403, "wrong_secret", "code")
	first["code"] = strings.ToLower(code)
	for field, wrong := range map[string]string{"timezone": "Nowhere/None", "password": "short", "site_name": "", "login": ""} {
		one := object{}
		for k, v := range first {
			one[k] = v
		}
		one[field] = wrong
		if a := anybody.Post("/first-start", one); a.Status != 422 || refusedField(a) != field {
			t.Errorf("with a wrong %s it is answered %d %s", field, a.Status, a.Body)
		}
	}
	anybody.Post("/first-start", first).JSON()
	anybody.Post("/first-start", first).Refused(409, "house_founded", "")
	signOn(anybody, "ines", "lamps along the quay")
	var here int
	if err := h.Owner.Get(&here, `SELECT count(*) FROM locations p JOIN sites s ON s.id = p.site_id WHERE s.code = 'HAR'`); err != nil || here < 8 {
		t.Errorf("the first site has %d locations: %v", here, err)
	}
	if now := anybody.Get("/session").JSON(); at(now, "person", "roles", 0) != "lead" || at(now, "person", "must_change") != "" {
		t.Errorf("she is %v", now["person"])
	}
}

// TestWhoeverLooksAfterTheServerIsTold reads whether it is alive and ready, and its figures, and names a request that went
// wrong.
func TestWhoeverLooksAfterTheServerIsTold(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	lead := world.SignOn(t, base, "lead")
	h.Stock(t, world.Clamp, h.Bin(t, "A-01-1-A"), 3)
	lead.Get("/row?site=1").JSONs()
	get := func(path string, header ...string) (int, string) {
		r := must(http.NewRequest(http.MethodGet, base+path, nil))
		for i := 0; i < len(header); i += 2 {
			r.Header.Set(header[i], header[i+1])
		}
		answer := must(http.DefaultClient.Do(r))
		defer answer.Body.Close()
		return answer.StatusCode, string(must(io.ReadAll(answer.Body)))
	}
	for _, path := range []string{"/health", "/ready"} {
		if status, says := get(path); status != 200 {
			t.Errorf("%s is %d: %s", path, status, says)
		}
	}
	_, figures := get("/metrics")
	for _, want := range []string{`lanternrow_request_seconds_count{operation="sign-on",status="200"} 1`, "lanternrow_postings 1", "lanternrow_moves_unsealed 1",
		"lanternrow_outbox_waiting 0", "lanternrow_live_listeners ", `go_sql_in_use_connections{db_name="commands"}`, "process_resident_memory_bytes"} {
		if !strings.Contains(figures, want) {
			t.Errorf("%s is not among the figures", want)
		}
	}
	h.Owner.MustExec(`INSERT INTO backups (file, bytes, sealed) VALUES ('/elsewhere/house.backup', 4096, 1)`)
	state := lead.Get("/house").JSON()
	if state["schema"] != state["needs_schema"] || state["moves"] != 1.0 || state["backup_file"] != "/elsewhere/house.backup" ||
		len(state["tables"].([]any)) == 0 || state["people"] != 7.0 {
		t.Errorf("the house is %v", state)
	}
	world.SignOn(t, base, "picker").Get("/house").Refused(403, "role", "")
	if status, _ := get("/metrics", "X-Forwarded-For", "203.0.113.9"); status != 403 {
		t.Errorf("somebody elsewhere reads figures: %d", status)
	}
	h.Owner.MustExec(`ALTER TABLE sites RENAME TO sites_gone`)
	a := lead.Get("/sites")
	var p struct{ Request, Detail string }
	if err := json.Unmarshal(a.Body, &p); err != nil || a.Status != 500 || len(p.Request) != 8 || !strings.Contains(p.Detail, p.Request) {
		t.Errorf("what went wrong is told as %d %s", a.Status, a.Body)
	}
	h.Owner.MustExec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99999, true)`)
	if status, says := get("/ready"); status != 503 || !strings.Contains(says, "schema") {
		t.Errorf("with another schema it is %d: %s", status, says)
	}
}

// TestBehindATLSProxy signs on by way of a proxy on this machine, as a browser elsewhere does: over TLS the cookie is kept to it
// and to this very host, and the browser is told to come by TLS alone; without TLS nobody is signed on.
func TestBehindATLSProxy(t *testing.T) {
	t.Parallel()
	h, base := serve(t)
	ask := func(base, method, path, body, scheme string, cookies ...*http.Cookie) *http.Response {
		t.Helper()
		r, err := http.NewRequest(method, base+path, strings.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		r.Host = "rows.example"
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("X-Forwarded-Proto", scheme)
		r.Header.Set("X-Forwarded-For", "203.0.113.9")
		for _, c := range cookies {
			r.AddCookie(c)
		}
		a, err := http.DefaultClient.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = a.Body.Close() })
		return a
	}
	const lead = `{"login":"lead","password":"` + world.Password + `"}`
	for scheme, age := range map[string]string{"https": "max-age=31536000", "http": ""} {
		if told := ask(base, "GET", "/api/v1/health", "", scheme).Header.Get("Strict-Transport-Security"); told != age {
			t.Errorf("by %s the browser is told %q", scheme, told)
		}
	}
	world.ReadAnswer(t, ask(base, "POST", "/api/v1/session", lead, "http")).Refused(403, "tls_wanted", "", "https")
	a := ask(base, "POST", "/api/v1/session", lead, "https")
	cookies := a.Cookies()
	if a.StatusCode != 200 || len(cookies) != 1 {
		t.Fatalf("over TLS it is %d with %v: %s", a.StatusCode, cookies, world.ReadAnswer(t, a).Body)
	}
	c := cookies[0]
	if c.Name != "__Host-lanternrow_session" || !c.Secure || !c.HttpOnly || c.Path != "/" || c.Domain != "" || c.SameSite != http.SameSiteStrictMode {
		t.Errorf("the cookie is %v", c)
	}
	if got := ask(base, "GET", "/api/v1/session", "", "https", c); got.StatusCode != 200 {
		t.Errorf("the session is %d", got.StatusCode)
	}
	// A proxy elsewhere is believed once it is named.
	for proxies, status := range map[string]int{"": 403, "198.51.100.0/24": 403, "192.0.2.7, 10.88.0.0/16": 200} {
		app := application.New(t.Context(), h.Pools(t), h.ServeURL, config.Config{Proxies: proxies}).App
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		if a := ask(world.ServeOn(t, app, elsewhere{l}), "POST", "/api/v1/session", lead, "https"); a.StatusCode != status {
			t.Errorf("a proxy at 10.88.0.1 is answered %d where %q are believed", a.StatusCode, proxies)
		}
	}
}

// elsewhere is a listener that everybody comes to from 10.88.0.1.
type elsewhere struct{ net.Listener }

type farConn struct{ net.Conn }

func (farConn) RemoteAddr() net.Addr { return &net.TCPAddr{IP: net.IPv4(10, 88, 0, 1), Port: 4321} }

func (e elsewhere) Accept() (net.Conn, error) {
	c, err := e.Listener.Accept()
	if err != nil {
		return nil, err
	}
	return farConn{c}, nil
}
