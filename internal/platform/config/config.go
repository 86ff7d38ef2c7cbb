// Package config reads the program's settings from the environment.
package config

import (
	"os"
	"path/filepath"
	"strings"
	"time"
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
	// SecureCookie is when the session cookie is kept to TLS: LANTERNROW_SECURE_COOKIE, auto (unless the browser is on this
	// machine), true or false.
	SecureCookie string
	// Idle is after how long a session ends that nobody uses: LANTERNROW_IDLE, 2h.
	Idle time.Duration
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
	idle, err := time.ParseDuration(or("LANTERNROW_IDLE", usualIdle))
	if err != nil || idle < time.Minute {
		idle, _ = time.ParseDuration(usualIdle)
	}
	return Config{
		Address:       or("LANTERNROW_ADDRESS", "127.0.0.1:8080"),
		DatabaseURL:   os.Getenv("DATABASE_URL"),
		RunDir:        run,
		SecureCookie:  strings.ToLower(or("LANTERNROW_SECURE_COOKIE", "auto")),
		Idle:          idle,
		CompanyPrefix: or("LANTERNROW_GS1_PREFIX", "9521234"),
		Schedules:     strings.EqualFold(or("LANTERNROW_SCHEDULES", "true"), "true"),
	}
}

const usualIdle = "2h"

func or(name, fallback string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return fallback
}
