package web

import (
	"lanternrow/internal/core/refusal"

	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/live"
	"lanternrow/internal/platform/postgres"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/valyala/fasthttp"
)

// bodyLimit bounds what any request may carry; most operations allow less.
const bodyLimit = 8 << 20

// policy lets in what ships with the application and nothing else; the component
// library writes styles into elements.
const policy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors " +
	"'none'; base-uri 'none'; form-action 'self'; object-src 'self'"

// A Server is the HTTP side of the application.
type Server struct {
	*Router
	App *fiber.App
	hub *live.Hub
	ctx context.Context
}

// healthTime is how long the database may take to say that it is there.
const healthTime = 2 * time.Second

// Options are how a server is run.
type Options struct {
	Cookies CookieMode
	// Idle is after how long a session ends that nobody uses; 0 for the usual time.
	Idle time.Duration
	// RunDir lies on the disk of which there has to be enough, and MetricsToken lets others than this machine read figures.
	RunDir, MetricsToken string
	// Proxies are believed beside those on this machine.
	Proxies []string
	// StandIns are there for what stands outside.
	StandIns bool
}

// New makes a server. ctx ends its streams; pools may be nil for one that only describes
// itself.
func New(ctx context.Context, pools *postgres.Pools, runner *command.Runner, hub *live.Hub, o Options) *Server {
	if pools == nil {
		pools = &postgres.Pools{}
	}
	app := fiber.New(fiber.Config{BodyLimit: bodyLimit, ReadTimeout: 30 * time.Second, IdleTimeout: 2 * time.Minute,
		ErrorHandler: unread,
		// A proxy on this very machine, or one that is named, says whom it asks for, and how they came.
		TrustProxy: true, TrustProxyConfig: fiber.TrustProxyConfig{Loopback: true, Proxies: o.Proxies}})
	app.Use(recover.New())
	app.Use(named, secured, uncompressed)
	watched := newWatch()
	config := huma.DefaultConfig("Lantern Row", "1")
	config.Info.Description = "Receiving, putaway, picking, packing and dispatch, with every unit's location and " +
		"history."
	config.OpenAPIPath, config.DocsPath, config.SchemasPath = "/api/v1/openapi", "", ""
	config.CreateHooks = nil
	config.Transformers = append(config.Transformers, withoutMoney)
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"session": {Type: "apiKey", In: "cookie",
		Name: cookieName}}
	s := &Server{
		Router: &Router{
			api: huma.NewAPI(config, &adapter{app, watched}), Runner: runner, Reads: pools.Reads, Reports: pools.Reports,
			people: people.NewService(pools.Reads, o.Idle), watch: watched, reading: make(chan struct{}, postgres.Reading),
			steps: map[string]people.Roles{}, StandIns: o.StandIns,
		},
		App: app, hub: hub, ctx: ctx,
	}
	app.Server().HeaderReceived = s.bodyLimitOf
	s.registerSignOn(o.Cookies)
	watched.follow(pools, runner, hub)
	s.registerWatch(pools, o.RunDir, o.MetricsToken)
	app.Get("/api/v1/events", s.events)
	app.Get("/api/v1/health", func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(c.Context(), healthTime)
		defer cancel()
		if err := pools.Health.PingContext(ctx); err != nil {
			return c.Status(http.StatusServiceUnavailable).SendString("the database does not answer\n")
		}
		return c.SendString("ok\n")
	})
	return s
}

// secured tells browsers what a page of ours may do.
func secured(c fiber.Ctx) error {
	c.Set("Content-Security-Policy", policy)
	c.Set("X-Content-Type-Options", "nosniff")
	c.Set("Referrer-Policy", "same-origin")
	c.Set("Cross-Origin-Opener-Policy", "same-origin")
	if overTLS(c) {
		c.Set("Strict-Transport-Security", "max-age=31536000")
	}
	if strings.HasPrefix(c.Path(), "/api/") {
		c.Set("Cache-Control", "no-store")
	}
	return c.Next()
}

// uncompressed refuses compressed bodies: what one unpacks to cannot be told beforehand.
func uncompressed(c fiber.Ctx) error {
	if e := c.Get("Content-Encoding"); e != "" && !strings.EqualFold(e, "identity") {
		return answer(c, problem(http.StatusUnsupportedMediaType, refusal.BodyCompressed,
			"Requests are sent as they are, without Content-Encoding "+e+"."))
	}
	return c.Next()
}

// unread answers a request that could not be read, such as one whose body is too large.
func unread(c fiber.Ctx, err error) error {
	var e *fiber.Error
	switch {
	case errors.As(err, &e) && e.Code == http.StatusRequestEntityTooLarge:
		return answer(c, problem(e.Code, refusal.BodyLarge,
			"What was sent is larger than may be sent here. Sign on first; then split what is large."))
	case errors.As(err, &e):
		return answer(c, problem(e.Code, refusal.Malformed, e.Message))
	}
	slog.Error("request failed", "error", err)
	return answer(c, problem(http.StatusInternalServerError, refusal.Internal,
		"Something went wrong here. Nothing was changed; try again."))
}

func answer(c fiber.Ctx, p *Problem) error {
	c.Status(p.Status)
	return c.JSON(p, "application/problem+json")
}

// bodyLimitOf bounds a request's body by its head, before any of it is read: a few
// kilobytes unless somebody is signed on.
func (s *Server) bodyLimitOf(header *fasthttp.RequestHeader) fasthttp.RequestConfig {
	if n := header.ContentLength(); n >= 0 && n <= bareBody {
		return fasthttp.RequestConfig{MaxRequestBodySize: bareBody}
	}
	ctx, cancel := context.WithTimeout(s.ctx, healthTime)
	defer cancel()
	if _, err := s.people.Session(ctx, tokenOf(string(header.Peek("Cookie")))); err != nil {
		return fasthttp.RequestConfig{MaxRequestBodySize: bareBody}
	}
	return fasthttp.RequestConfig{MaxRequestBodySize: bodyLimit}
}

// Describe is the OpenAPI description, as JSON.
func (s *Server) Describe() ([]byte, error) {
	api := s.api.OpenAPI()
	code := api.Components.Schemas.Map()["Problem"].Properties["code"]
	code.Enum = make([]any, len(refusal.Codes))
	for i, c := range refusal.Codes {
		code.Enum[i] = string(c)
	}
	return api.MarshalJSON()
}

// ServeInterface serves the interface for every path that is not the API's. It
// comes last.
func (s *Server) ServeInterface() {
	s.App.Use("/api", func(c fiber.Ctx) error {
		return c.Status(http.StatusNotFound).JSON(problem(http.StatusNotFound, refusal.NoSuchOperation,
			"There is no such operation."))
	})
	s.App.Get("/*", static)
}

// beat is how often a stream says that it is alive.
const beat = 20 * time.Second

func (s *Server) events(c fiber.Ctx) error {
	token := strings.Clone(tokenOf(string(c.Request().Header.Peek("Cookie"))))
	if session, err := s.people.Session(c.Context(), token); err != nil || session.Person.MustChange != "" {
		return c.SendStatus(http.StatusUnauthorized)
	}
	c.Set("Content-Type", "text/event-stream")
	c.Set("Cache-Control", "no-store")
	changes := s.hub.Subscribe()
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer changes.Close()
		fmt.Fprint(w, "event: change\ndata: hello\n\n")
		for w.Flush() == nil {
			select {
			case <-s.ctx.Done():
				return
			case <-changes.Changed():
				fmt.Fprintf(w, "event: change\ndata: %s\n\n", changes.Take())
			case <-time.After(beat):
				fmt.Fprint(w, ": alive\n\n")
			}
			// A stream ends with its session. While the database does not answer it stays.
			if _, err := s.people.Session(s.ctx, token); refusal.From(err) != nil {
				return
			}
		}
	})
}
