package web

import (
	"bytes"
	"context"
	"crypto/tls"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"time"

	"lanternrow/internal/people"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v3"
)

// whoKey is where it is noted who asks, once that is known.
type whoKey struct{}

// adapter lets huma's typed operations be served by Fiber v3, for which huma ships
// none of its own yet.
type adapter struct {
	app   *fiber.App
	watch *watch
}

func (a *adapter) Handle(op *huma.Operation, handler func(huma.Context)) {
	path := strings.NewReplacer("{", ":", "}", "").Replace(op.Path)
	a.app.Add([]string{op.Method}, path, func(c fiber.Ctx) error {
		deadline := usualDeadline
		if d, set := op.Metadata[deadlineKey].(time.Duration); set {
			deadline = d
		}
		ctx, cancel := context.WithTimeout(from(c), deadline)
		defer cancel()
		who := &people.Person{}
		ctx = context.WithValue(ctx, whoKey{}, who)
		began, f := time.Now(), &fiberContext{op: op, c: c, ctx: ctx}
		handler(f)
		a.watch.done(f.ctx, who.Login, op.OperationID, c.Response().StatusCode(), time.Since(began), addressOf(c))
		return nil
	})
}

// ServeHTTP serves a request of the standard library through Fiber, for tests.
func (a *adapter) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	response, err := a.app.Test(r)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	defer response.Body.Close()
	for k, values := range response.Header {
		w.Header()[k] = values
	}
	w.WriteHeader(response.StatusCode)
	_, _ = io.Copy(w, response.Body)
}

// fiberContext is one request, as huma sees it. What Fiber hands out as strings is
// only valid during the request, so it is copied.
type fiberContext struct {
	op     *huma.Operation
	c      fiber.Ctx
	ctx    context.Context
	status int
}

func (f *fiberContext) Operation() *huma.Operation      { return f.op }
func (f *fiberContext) Context() context.Context        { return f.ctx }
func (f *fiberContext) TLS() *tls.ConnectionState       { return f.c.RequestCtx().TLSConnectionState() }
func (f *fiberContext) Version() huma.ProtoVersion      { return huma.ProtoVersion{Proto: f.c.Protocol()} }
func (f *fiberContext) Method() string                  { return f.op.Method }
func (f *fiberContext) Host() string                    { return strings.Clone(f.c.Hostname()) }
func (f *fiberContext) RemoteAddr() string              { return f.c.RequestCtx().RemoteAddr().String() }
func (f *fiberContext) Param(name string) string        { return strings.Clone(f.c.Params(name)) }
func (f *fiberContext) Query(name string) string        { return strings.Clone(f.c.Query(name)) }
func (f *fiberContext) Header(name string) string       { return strings.Clone(f.c.Get(name)) }
func (f *fiberContext) BodyReader() io.Reader           { return bytes.NewReader(f.c.BodyRaw()) }
func (f *fiberContext) SetReadDeadline(time.Time) error { return nil }
func (f *fiberContext) SetStatus(code int)              { f.status = code; f.c.Status(code) }
func (f *fiberContext) Status() int                     { return f.status }
func (f *fiberContext) SetHeader(name, value string)    { f.c.Set(name, value) }
func (f *fiberContext) AppendHeader(name, value string) { f.c.Append(name, value) }
func (f *fiberContext) BodyWriter() io.Writer           { return f.c.RequestCtx() }

func (f *fiberContext) URL() url.URL {
	u, err := url.Parse(string(f.c.Request().RequestURI()))
	if err != nil {
		return url.URL{}
	}
	return *u
}

func (f *fiberContext) EachHeader(cb func(name, value string)) {
	for k, v := range f.c.Request().Header.All() {
		cb(string(k), string(v))
	}
}

func (f *fiberContext) GetMultipartForm() (*multipart.Form, error) { return f.c.MultipartForm() }
