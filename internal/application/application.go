// Package application puts the parts together.
package application

import (
	"context"
	"time"

	"lanternrow/internal/carriers"
	"lanternrow/internal/catalog"
	"lanternrow/internal/catalog/sheets"
	"lanternrow/internal/connection"
	"lanternrow/internal/house"
	"lanternrow/internal/invoicing"
	"lanternrow/internal/labels"
	"lanternrow/internal/mailhost"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/config"
	"lanternrow/internal/platform/live"
	"lanternrow/internal/platform/postgres"
	"lanternrow/internal/platform/schedules"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/purchasing"
	"lanternrow/internal/recall"
	"lanternrow/internal/resolving"
	"lanternrow/internal/returns"
	"lanternrow/internal/row"
	"lanternrow/internal/savedviews"
	"lanternrow/internal/staff"
	"lanternrow/internal/standin"
	"lanternrow/internal/standin/carrier"
	"lanternrow/internal/standin/host"
	"lanternrow/internal/standin/mail"
	"lanternrow/internal/standin/printer"
	"lanternrow/internal/standin/scale"
	"lanternrow/internal/station/audit"
	"lanternrow/internal/station/dispatch"
	"lanternrow/internal/station/orders"
	"lanternrow/internal/station/pack"
	"lanternrow/internal/station/pick"
	"lanternrow/internal/station/putaway"
	"lanternrow/internal/station/receive"
	"lanternrow/internal/station/refill"
	"lanternrow/internal/station/stock"
	"lanternrow/internal/station/transfers"
	between "lanternrow/internal/transfers"
	"lanternrow/internal/value"
)

// New makes the server with every station registered. Its hub and its schedules work until
// ctx ends. Without pools it only describes itself.
func New(ctx context.Context, pools *postgres.Pools, url string, c config.Config) *web.Server {
	runner := &command.Runner{Now: time.Now}
	hub := live.NewHub(nil, url)
	if pools != nil {
		hub = live.NewHub(pools.Commands, url)
		runner.DB = pools.Commands
		go hub.Run(ctx)
	}
	runner.Notify = hub
	server := web.New(ctx, pools, runner, hub, web.Options{Cookies: web.CookieMode(c.SecureCookie), Idle: c.Idle, RunDir: c.RunDir,
		MetricsToken: c.MetricsToken, Proxies: c.ProxyList(), StandIns: c.StandIns})
	r := server.Router
	web.RegisterProgress(r)
	catalog.Register(r)
	sheets.Register(r)
	resolving.Register(r)
	row.Register(r)
	receive.Register(r, c.CompanyPrefix)
	purchasing.Register(r)
	putaway.Register(r)
	stock.Register(r)
	orders.Register(r)
	pick.Register(r, c.CompanyPrefix, audit.Look)
	pack.Register(r, c.CompanyPrefix)
	dispatch.Register(r, pick.Left)
	transfers.Register(r)
	refill.Register(r)
	returns.Register(r)
	between.Register(r)
	audit.Register(r, pick.Replan)
	value.Register(r)
	recall.Register(r)
	savedviews.Register(r)
	staff.Register(r)
	house.Register(r)
	printer.Register(r)
	letters := mailhost.Host{Address: c.SMTP, From: c.MailFrom}
	mail.Register(r, letters.Name())
	scale.Register(r)
	carrier.Register(r)
	host.Register(r)
	carriers.Register(r)
	labels.Register(r)
	connection.Register(r)
	invoicing.Register(r)
	engine := schedules.New(runner, orders.Schedule(), pick.Schedule(), refill.Schedule(), invoicing.Schedule())
	engine.Register(r)
	if pools != nil && c.Schedules {
		go engine.Run(ctx)
	}
	if pools != nil {
		worker := standin.Outbox(runner, c.StandIns)
		if c.SMTP != "" {
			worker.Lines[connection.Mail] = connection.Line{Port: letters}
		}
		go worker.Run(ctx, hub)
	}
	server.ServeInterface()
	return server
}
