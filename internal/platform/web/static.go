package web

import (
	"embed"
	"mime"
	"path"
	"strings"

	"github.com/gofiber/fiber/v3"
)

//go:embed all:dist
var dist embed.FS

// static sends a file of the built interface, compressed as it was at build time;
// any path that is no file is the interface's own and gets its one page.
func static(c fiber.Ctx) error {
	name := strings.TrimPrefix(path.Clean("/"+c.Params("*")), "/")
	if path.Ext(name) == "" {
		name = "index.html"
	}
	for _, e := range []struct{ encoding, suffix string }{{"br", ".br"}, {"gzip", ".gz"}, {"", ""}} {
		if e.encoding != "" && !strings.Contains(c.Get("Accept-Encoding"), e.encoding) {
			continue
		}
		body, err := dist.ReadFile("dist/" + name + e.suffix)
		if err != nil {
			continue
		}
		if e.encoding != "" {
			c.Set("Content-Encoding", e.encoding)
		}
		c.Set("Vary", "Accept-Encoding")
		c.Set("Content-Type", mime.TypeByExtension(path.Ext(name)))
		c.Set("Cache-Control", "no-cache")
		if strings.HasPrefix(name, "assets/") {
			c.Set("Cache-Control", "public, max-age=31536000, immutable")
		}
		return c.Send(body)
	}
	if name == "index.html" {
		return c.Status(fiber.StatusNotFound).SendString("The interface is not built: run make build.\n")
	}
	return c.SendStatus(fiber.StatusNotFound)
}
