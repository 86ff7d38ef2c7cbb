package web

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"time"

	"lanternrow/internal/people"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/live"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/recover"
)

// bodyLimit bounds what any request may carry; most operations allow less.
const bodyLimit = 8 << 20

// policy lets in what ships with the application and nothing else; the component
// library writes styles into elements.
const policy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'self'"

// A Server is the HTTP side of the application.
type Server struct {
	*Router
	App *fiber.App
	hub *live.Hub
	ctx context.Context
}

// New makes a server. ctx ends its streams.
func New(ctx context.Context, runner *command.Runner, service *people.Service, hub *live.Hub, secure bool) *Server {
	app := fiber.New(fiber.Config{BodyLimit: bodyLimit, ReadTimeout: 30 * time.Second, IdleTimeout: 2 * time.Minute})
	app.Use(recover.New())
	app.Use(func(c fiber.Ctx) error {
		c.Set("Content-Security-Policy", policy)
		c.Set("X-Content-Type-Options", "nosniff")
		c.Set("Referrer-Policy", "same-origin")
		c.Set("Cross-Origin-Opener-Policy", "same-origin")
		return c.Next()
	})
	config := huma.DefaultConfig("Lantern Row", "1")
	config.Info.Description = "Receiving, putaway, picking, packing and dispatch, with every unit's place and history."
	config.OpenAPIPath, config.DocsPath, config.SchemasPath = "/api/v1/openapi", "", ""
	config.CreateHooks = nil
	config.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{"session": {Type: "apiKey", In: "cookie", Name: cookieName}}
	s := &Server{
		Router: &Router{api: huma.NewAPI(config, &adapter{app}), Runner: runner, people: service},
		App:    app, hub: hub, ctx: ctx,
	}
	s.registerSignOn(secure)
	app.Get("/api/v1/events", s.events)
	app.Get("/api/v1/health", func(c fiber.Ctx) error {
		if err := runner.DB.PingContext(c.Context()); err != nil {
			return c.Status(http.StatusServiceUnavailable).SendString("the database does not answer\n")
		}
		return c.SendString("ok\n")
	})
	return s
}

// Describe is the OpenAPI description, as JSON.
func (s *Server) Describe() ([]byte, error) { return s.api.OpenAPI().MarshalJSON() }

// ServeInterface serves the interface for every path that is not the API's. It
// comes last.
func (s *Server) ServeInterface() {
	s.App.Use("/api", func(c fiber.Ctx) error {
		return c.Status(http.StatusNotFound).JSON(problem(http.StatusNotFound, "no_such_operation", "There is no such operation."))
	})
	s.App.Get("/*", static)
}

// beat is how often a stream says that it is alive.
const beat = 20 * time.Second

func (s *Server) events(c fiber.Ctx) error {
	if _, err := s.people.Session(c.Context(), c.Cookies(cookieName)); err != nil {
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
		}
	})
}
