package ledger

import (
	"context"
	"crypto/ed25519"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"log/slog"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// A ChainHead is the newest seal at some time. Kept outside of the house it proves later that nothing up to it was cut off or
// written anew: whoever may rewrite all of the database may make another chain, and not one with this head.
type ChainHead struct {
	Position int64
	Hash     []byte
	At       time.Time
}

// ReadHead reads the newest seal; of an empty chain its position is 0.
func ReadHead(ctx context.Context, q sqlx.QueryerContext, now time.Time) (ChainHead, error) {
	last, err := lastSeal(ctx, q)
	return ChainHead{last.Position, last.Hash, now.UTC().Truncate(time.Second)}, err
}

// headLabel begins the line of a head, with the form that it has.
const headLabel = "lanternrow-head-1"

// ErrHead says that a line is no head, or was not signed by whoever has the key.
var ErrHead = errors.New("this line is no head of seals that the key signed")

// line is the head as it is signed.
func (h ChainHead) line() string {
	return strings.Join([]string{headLabel, strconv.FormatInt(h.Position, 10), hex.EncodeToString(h.Hash), h.At.Format(time.RFC3339)}, " ")
}

// Sign writes the head as a line with an Ed25519 signature (RFC 8032) at its end.
func (h ChainHead) Sign(key ed25519.PrivateKey) string {
	return h.line() + " " + base64.RawURLEncoding.EncodeToString(ed25519.Sign(key, []byte(h.line())))
}

// ReadSigned reads a line that Sign wrote: ErrHead where the key did not sign it.
func ReadSigned(line string, key ed25519.PublicKey) (h ChainHead, err error) {
	fields := strings.Fields(line)
	if len(fields) != 5 || fields[0] != headLabel {
		return h, ErrHead
	}
	var e1, e2, e3, e4 error
	h.Position, e1 = strconv.ParseInt(fields[1], 10, 64)
	h.Hash, e2 = hex.DecodeString(fields[2])
	h.At, e3 = time.Parse(time.RFC3339, fields[3])
	signature, e4 := base64.RawURLEncoding.DecodeString(fields[4])
	if errors.Join(e1, e2, e3, e4) != nil || !ed25519.Verify(key, []byte(h.line()), signature) {
		return h, ErrHead
	}
	return h, nil
}

// HeadEvery is how often the head goes out of the house.
const HeadEvery = time.Hour

// KeepHeads appends the newest seal to a file as a signed line, at once and then every so often where there is a newer one,
// until ctx ends. Any number of servers may do so, each into a file of its own.
func KeepHeads(ctx context.Context, q sqlx.QueryerContext, key ed25519.PrivateKey, file string, every time.Duration) {
	var last int64
	for {
		h, err := ReadHead(ctx, q, time.Now())
		if err == nil && h.Position > last {
			if err = appendText(file, h.Sign(key)+"\n"); err == nil {
				last = h.Position
			}
		}
		if err != nil && ctx.Err() == nil {
			slog.Warn("the head of the seals is not written", "file", file, "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(every):
		}
	}
}

// CanKeepHeads errs where KeepHeads could not write to a file.
func CanKeepHeads(file string) error { return appendText(file, "") }

// appendText writes a text behind all that a file has, to the disk.
func appendText(file, text string) error {
	f, err := os.OpenFile(file, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	_, err = f.WriteString(text)
	return errors.Join(err, f.Sync(), f.Close())
}
