// Package connection tells receivers outside of the house: carriers, mail, the host system,
// label printers. What is to be told is written into one outbox, in the transaction that it
// tells of, and worked after commit: in order for each receiver, at least once, again after
// a pause when a receiver does not take it. Nothing outside is spoken to within a
// transaction, which may run several times.
package connection

import (
	"encoding/json"
	"time"

	"lanternrow/internal/documents"
)

// A Channel is a kind of receiver.
type Channel string

// The channels there are.
const (
	Carrier Channel = "carrier"
	Mail    Channel = "mail"
	Host    Channel = "host"
	Printer Channel = "printer"
)

// A State is how far a message is.
type State string

// The states of a message.
const (
	Waiting   State = "waiting"
	Done      State = "done"
	Refused   State = "refused"
	Discarded State = "discarded"
)

// A Message is something that a receiver is told.
type Message struct {
	ID      int64   `db:"id" json:"id"`
	SiteID  int32   `db:"site_id" json:"site_id"`
	Channel Channel `db:"channel" json:"channel" enum:"carrier,mail,host,printer"`
	// Receiver is who is told, by a name that is unique within the channel.
	Receiver string          `db:"receiver" json:"receiver"`
	Kind     string          `db:"kind" json:"kind"`
	Document string          `db:"document" json:"document"`
	Body     json.RawMessage `db:"body" json:"body"`
	State    State           `db:"state" json:"state" enum:"waiting,done,refused,discarded"`
	Attempts int             `db:"attempts" json:"attempts" doc:"How often it was tried"`
	NextAt   time.Time       `db:"next_at" json:"next_at" doc:"When it is tried next, while it waits"`
	Said     string          `db:"said" json:"said" doc:"What the receiver said the last time, where it did not take it"`
	Person   string          `db:"person" json:"person"`
	AskedAt  time.Time       `db:"asked_at" json:"asked_at"`
	DoneAt   *time.Time      `db:"done_at" json:"done_at"`
	// Paper goes along, under PaperName; only who delivers reads it.
	PaperName string `db:"paper_name" json:"paper_name"`
	Paper     []byte `db:"paper" json:"-"`
	AskedBy   int32  `db:"asked_by" json:"-"`
	documents.Sorted
}
