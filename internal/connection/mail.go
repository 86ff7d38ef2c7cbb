package connection

import (
	"context"
	"encoding/json"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"lanternrow/internal/core/refusal"
	"lanternrow/internal/documents"
	"lanternrow/internal/platform/command"
)

// A Letter is mail with a paper.
type Letter struct {
	Recipient string `json:"recipient"`
	Subject   string `json:"subject"`
	Text      string `json:"text"`

	// Document is what it is about; Paper goes along under PaperName.
	Document  string `json:"-"`
	PaperName string `json:"-"`
	Paper     []byte `json:"-"`
}

// SiteReceiver is the receiver of a channel that each site has one of.
func SiteReceiver(site int32) string { return fmt.Sprint("site ", site) }

// Post mails a letter from a site.
func Post(ctx context.Context, tx *command.Tx, site int32, l Letter) error {
	err := tx.At(ctx, site)
	if err != nil {
		return err
	}
	if l.Recipient, err = Address(l.Recipient); err != nil {
		return err
	}
	return Put(ctx, tx, Message{SiteID: site, Channel: Mail, Receiver: SiteReceiver(site), Kind: "letter",
		Document: l.Document, PaperName: l.PaperName, Paper: l.Paper}, l)
}

// Address is the address that mail goes to, in what somebody wrote.
func Address(text string) (string, error) {
	if strings.TrimSpace(text) == "" {
		return "", refusal.New(refusal.AddressMissing, "email",
			"There is no address to send it to. Write the supplier's or customer's address for mail into the "+
				"catalog, or print the paper.")
	}
	to, err := mail.ParseAddress(text)
	if err != nil {
		return "", refusal.New(refusal.AddressMalformed, "email",
			"%q is not an address for mail. Correct it in the catalog, such as name@example.org.", text)
	}
	return to.Address, nil
}

// Letter is what a message of the channel Mail carries.
func (m Message) Letter() (l Letter, err error) {
	if err = json.Unmarshal(m.Body, &l); err != nil {
		return l, fmt.Errorf("reading a letter: %w", err)
	}
	l.Document, l.PaperName, l.Paper = m.Document, m.PaperName, m.Paper
	return l, nil
}

// Letters are the letters of a site that wait, or those that do not any more, over the site and
// whether they wait.
var Letters = documents.List[Message]{
	Query: columns + `WHERE m.channel = 'mail' AND m.site_id = $1 AND (m.state = 'waiting') = $2`,
	Keys: map[string]documents.SortKey{
		"to":       {Expr: "lower(o.body ->> 'recipient')", Type: "text"},
		"subject":  {Expr: "lower(o.body ->> 'subject')", Type: "text"},
		"document": {Expr: "o.document", Type: "text"},
		"asked":    {Expr: "o.asked_at", Type: "timestamptz"},
		"person":   {Expr: "lower(o.person)", Type: "text"},
		"state":    {Expr: "o.state || o.said", Type: "text"},
	},
	Header: []string{"recipient", "subject", "document", "asked_at", "person", "state", "said", "done_at"},
	Text: func(m Message) []string {
		l, _ := m.Letter()
		done := ""
		if m.DoneAt != nil {
			done = m.DoneAt.UTC().Format(time.RFC3339)
		}
		return []string{l.Recipient, l.Subject, m.Document, m.AskedAt.UTC().Format(time.RFC3339), m.Person,
			string(m.State), m.Said, done}
	},
}

// TellHost tells a site's host system of a document.
func TellHost(ctx context.Context, tx *command.Tx, site int32, kind, document string, body any) error {
	return Put(ctx, tx, Message{SiteID: site, Channel: Host, Receiver: SiteReceiver(site), Kind: kind,
		Document: document}, body)
}
