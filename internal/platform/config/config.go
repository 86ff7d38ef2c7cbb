// Package config reads the program's settings from the environment.
package config

import (
	"os"
	"path/filepath"
	"strings"
)

// Config is every setting, with its default.
type Config struct {
	// Address is where the server listens: LANTERNROW_ADDRESS, 127.0.0.1:8080.
	Address string
	// DatabaseURL names an outside PostgreSQL, as its owner: DATABASE_URL. Empty
	// means a private server, started on loopback.
	DatabaseURL string
	// RunDir keeps the private server's data, log and password: LANTERNROW_RUN,
	// .run in the working directory.
	RunDir string
	// SecureCookie marks the session cookie for HTTPS only:
	// LANTERNROW_SECURE_COOKIE, false.
	SecureCookie bool
	// CompanyPrefix is the GS1 Company Prefix that carton numbers are made under:
	// LANTERNROW_GS1_PREFIX, 9521234 (GS1 keeps 952 for examples).
	CompanyPrefix string
	// Schedules tells whether this server does what is scheduled:
	// LANTERNROW_SCHEDULES, true. Of several servers one is enough.
	Schedules bool
}

// FromEnvironment reads the settings.
func FromEnvironment() Config {
	run, err := filepath.Abs(or("LANTERNROW_RUN", ".run"))
	if err != nil {
		run = ".run"
	}
	return Config{
		Address:       or("LANTERNROW_ADDRESS", "127.0.0.1:8080"),
		DatabaseURL:   os.Getenv("DATABASE_URL"),
		RunDir:        run,
		SecureCookie:  strings.EqualFold(os.Getenv("LANTERNROW_SECURE_COOKIE"), "true"),
		CompanyPrefix: or("LANTERNROW_GS1_PREFIX", "9521234"),
		Schedules:     strings.EqualFold(or("LANTERNROW_SCHEDULES", "true"), "true"),
	}
}

func or(name, fallback string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return fallback
}
