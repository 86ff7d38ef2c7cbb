// Package standin puts the devices and services that ship with the product behind the ports
// that real ones would stand behind. Each is small, honest about being one, and can be told
// to fail, since real ones do.
package standin

import (
	"lanternrow/internal/connection"
	"lanternrow/internal/labels"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/shipping"
	"lanternrow/internal/standin/carrier"
	"lanternrow/internal/standin/host"
	"lanternrow/internal/standin/mail"
	"lanternrow/internal/standin/printer"
)

// Outbox works what is to be told outside, through the stand-ins where they are on. Where they are off nothing is
// connected, and what is to be told waits.
func Outbox(runner *command.Runner, on bool) *connection.Worker {
	if !on {
		return &connection.Worker{Runner: runner, Lines: map[connection.Channel]connection.Line{
			connection.Mail: {Port: connection.Unconnected{}}, connection.Host: {Port: connection.Unconnected{}},
			connection.Carrier: {Port: connection.Unconnected{}}, connection.Printer: {Port: connection.Unconnected{}}}}
	}
	devices := runner.DB
	return &connection.Worker{Runner: runner, Lines: map[connection.Channel]connection.Line{
		connection.Mail:    {Port: mail.Host{DB: devices}},
		connection.Host:    {Port: host.System{DB: devices}},
		connection.Carrier: {Port: carrier.Desk{DB: devices}, Settle: shipping.Settle},
		connection.Printer: {Port: printer.Device{DB: devices}, Settle: labels.Settle},
	}}
}
