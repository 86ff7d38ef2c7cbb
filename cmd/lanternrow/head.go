package main

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"crypto/x509"
	"encoding/pem"
	"errors"
	"fmt"
	"os"
	"strings"
	"time"

	"lanternrow/internal/ledger"
	"lanternrow/internal/platform/config"

	"github.com/jmoiron/sqlx"
	"github.com/spf13/cobra"
)

// headCommand writes the newest seal as a signed line, to be kept outside of the house.
func headCommand(c config.Config) *cobra.Command {
	var key, fresh string
	cmd := &cobra.Command{Use: "head", Short: "Write the newest seal as a signed line, to be kept elsewhere", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if fresh != "" {
				return newKey(fresh)
			}
			signer, err := signingKey(key)
			if err != nil {
				return err
			}
			return withDatabase(cmd.Context(), c, func(ctx context.Context, db *sqlx.DB) error {
				h, err := ledger.ReadHead(ctx, db, time.Now())
				if err == nil {
					fmt.Println(h.Sign(signer))
				}
				return err
			})
		}}
	cmd.Flags().StringVar(&key, "key", "", "the file of the key that signs")
	cmd.Flags().StringVar(&fresh, "new-key", "", "make a key in this file, and its public part in one of that name with .pub")
	return cmd
}

// signingKey reads the key that signs heads.
func signingKey(file string) (ed25519.PrivateKey, error) {
	key, err := readKey(file)
	if err != nil {
		return nil, err
	}
	signer, ok := key.(ed25519.PrivateKey)
	if !ok {
		return nil, errors.New("this is no Ed25519 key that signs; make one with lanternrow head --new-key FILE")
	}
	return signer, nil
}

// verifyCommand proves that the ledger is whole, and that it goes through a head that was kept elsewhere.
func verifyCommand(c config.Config) *cobra.Command {
	var since, public string
	cmd := &cobra.Command{Use: "verify", Short: "Prove that nobody changed history and that all balances are right", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var kept ledger.ChainHead
			if since != "" {
				var err error
				if kept, err = keptHead(since, public); err != nil {
					return err
				}
			}
			return verify(cmd.Context(), c, kept)
		}}
	cmd.Flags().StringVar(&since, "since", "", "a file of signed heads, the last of which the chain has to go through")
	cmd.Flags().StringVar(&public, "public", "", "the public part of the key that signed them")
	return cmd
}

// keptHead reads the last head of a file.
func keptHead(file, public string) (h ledger.ChainHead, err error) {
	key, err := readKey(public)
	if err != nil {
		return h, err
	}
	known, ok := key.(ed25519.PublicKey)
	if !ok {
		return h, errors.New("--public is to name the public part of an Ed25519 key")
	}
	text, err := os.ReadFile(file)
	if err != nil {
		return h, fmt.Errorf("reading heads: %w", err)
	}
	lines := strings.Split(strings.TrimSpace(string(text)), "\n")
	return ledger.ReadSigned(lines[len(lines)-1], known)
}

// newKey makes a pair of keys in PEM (PKCS #8 and SubjectPublicKeyInfo, RFC 8410), and overwrites none.
func newKey(file string) error {
	public, private, err := ed25519.GenerateKey(rand.Reader)
	if err != nil {
		return fmt.Errorf("making a key: %w", err)
	}
	for _, k := range []struct {
		name, label string
		mode        os.FileMode
		encode      func() ([]byte, error)
	}{{file, "PRIVATE KEY", 0o600, func() ([]byte, error) { return x509.MarshalPKCS8PrivateKey(private) }},
		{file + ".pub", "PUBLIC KEY", 0o644, func() ([]byte, error) { return x509.MarshalPKIXPublicKey(public) }}} {
		der, err := k.encode()
		if err != nil {
			return fmt.Errorf("writing a key: %w", err)
		}
		f, err := os.OpenFile(k.name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, k.mode)
		if err != nil {
			return fmt.Errorf("writing a key: %w", err)
		}
		if err := errors.Join(pem.Encode(f, &pem.Block{Type: k.label, Bytes: der}), f.Close()); err != nil {
			return fmt.Errorf("writing a key: %w", err)
		}
	}
	fmt.Printf("%s signs heads; keep it where nobody who may change the database reads it. %s.pub proves them.\n", file, file)
	return nil
}

// readKey reads one of the two.
func readKey(file string) (any, error) {
	text, err := os.ReadFile(file)
	if err != nil {
		return nil, fmt.Errorf("reading a key: %w", err)
	}
	block, _ := pem.Decode(text)
	if block == nil {
		return nil, fmt.Errorf("%s is no key in PEM", file)
	}
	if block.Type == "PUBLIC KEY" {
		return x509.ParsePKIXPublicKey(block.Bytes)
	}
	return x509.ParsePKCS8PrivateKey(block.Bytes)
}
