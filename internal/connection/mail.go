package connection

import (
	"context"
	"encoding/json"
	"fmt"
	"net/mail"
	"strings"

	"lanternrow/internal/core/refusal"
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
	if strings.TrimSpace(l.Recipient) == "" {
		return refusal.New(refusal.AddressMissing, "email",
			"There is no address to send it to. Write the supplier's or customer's address for mail into the "+
				"catalog, or print the paper.")
	}
	to, err := mail.ParseAddress(l.Recipient)
	if err != nil {
		return refusal.New(refusal.AddressMalformed, "email",
			"%q is not an address for mail. Correct it in the catalog, such as name@example.org.", l.Recipient)
	}
	l.Recipient = to.Address
	return Put(ctx, tx, Message{SiteID: site, Channel: Mail, Receiver: SiteReceiver(site), Kind: "letter",
		Document: l.Document, PaperName: l.PaperName, Paper: l.Paper}, l)
}

// Letter is what a message of the channel Mail carries.
func (m Message) Letter() (l Letter, err error) {
	if err = json.Unmarshal(m.Body, &l); err != nil {
		return l, fmt.Errorf("reading a letter: %w", err)
	}
	l.Document, l.PaperName, l.Paper = m.Document, m.PaperName, m.Paper
	return l, nil
}

// TellHost tells a site's host system of a document.
func TellHost(ctx context.Context, tx *command.Tx, site int32, kind, document string, body any) error {
	return Put(ctx, tx, Message{SiteID: site, Channel: Host, Receiver: SiteReceiver(site), Kind: kind,
		Document: document}, body)
}
