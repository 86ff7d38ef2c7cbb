package config

import (
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"os/user"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/hashicorp/go-envparse"
)

const (
	prefix = "LANTERNROW_"
	// usualFile is where settings are, so that commands at the console mean the house that is served.
	usualFile = "/etc/lanternrow.env"
)

// namesHouse are the settings that say where stock is kept. Where the environment has one of them, no file is looked at:
// two houses are never mixed.
var namesHouse = []string{"DATABASE_URL", prefix + "SERVE_URL", prefix + "RUN"}

// settings are values by name, as they were written.
type settings struct {
	// file is where they were read beside the environment.
	file   string
	values map[string]string
	// known are the names that were asked for: others mean nothing.
	known map[string]bool
}

// written finds the settings of the environment, and those of a file where that names no house.
func written() (*settings, error) {
	s := &settings{values: map[string]string{}, known: map[string]bool{}}
	for _, entry := range os.Environ() {
		if name, value, _ := strings.Cut(entry, "="); isOurs(name) && value != "" {
			s.values[name] = value
		}
	}
	file := s.or(prefix+"SETTINGS", usualFile)
	if slices.ContainsFunc(namesHouse, func(name string) bool { return s.values[name] != "" }) {
		return s, nil
	}
	_, named := s.values[prefix+"SETTINGS"]
	beside, err := read(file)
	switch {
	case errors.Is(err, fs.ErrNotExist) && !named:
		return s, nil
	case err != nil:
		return s, err
	}
	s.file = file
	maps.Copy(beside, s.values)
	s.values = beside
	return s, nil
}

func isOurs(name string) bool { return strings.HasPrefix(name, prefix) || name == "DATABASE_URL" }

// read reads a file of lines NAME=value, as systemd reads one too.
func read(file string) (map[string]string, error) {
	f, err := os.Open(file)
	if errors.Is(err, fs.ErrPermission) {
		return nil, fmt.Errorf("the settings in %s may be read by %s alone; run this as that user: sudo -u %[2]s lanternrow …", file, ownerOf(file))
	}
	if err != nil {
		return nil, fmt.Errorf("reading settings: %w", err)
	}
	defer f.Close()
	values, err := envparse.Parse(f)
	if err != nil {
		return nil, fmt.Errorf("reading the settings in %s: %w", file, err)
	}
	return values, nil
}

func ownerOf(file string) string {
	info, err := os.Stat(file)
	if err != nil {
		return "its user"
	}
	stat, ok := info.Sys().(*syscall.Stat_t)
	if !ok {
		return "its user"
	}
	id := strconv.FormatUint(uint64(stat.Uid), 10)
	if u, err := user.LookupId(id); err == nil {
		return u.Username
	}
	return id
}

// or is how a setting was written, or its default.
func (s *settings) or(name, fallback string) string {
	s.known[name] = true
	if v := s.values[name]; v != "" {
		return v
	}
	return fallback
}

// duration reads how long something is; what is none is 0, which check refuses.
func (s *settings) duration(name, fallback string) time.Duration {
	d, err := time.ParseDuration(s.or(name, fallback))
	if err != nil {
		return 0
	}
	return d
}

// neither tells whether a setting is given, and says neither true nor false.
func (s *settings) neither(name string) bool {
	return !slices.Contains([]string{"", "true", "false"}, strings.ToLower(s.or(name, "")))
}

// strangers errs where something is set that is no setting, such as one that is misspelt. It is asked once all are read.
func (s *settings) strangers() error {
	for _, name := range slices.Sorted(maps.Keys(s.values)) {
		if !s.known[name] && (isOurs(name) || s.file != "") {
			return fmt.Errorf("there is no setting %s; there are %s", name, strings.Join(slices.Sorted(maps.Keys(s.known)), ", "))
		}
	}
	return nil
}
