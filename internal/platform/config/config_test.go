package config

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// TestTheReadmeNamesEverySettingWithItsDefault reads the table of settings in the
// README and holds it against what the program does.
func TestTheReadmeNamesEverySettingWithItsDefault(t *testing.T) {
	for _, entry := range os.Environ() {
		if name, value, _ := strings.Cut(entry, "="); strings.HasPrefix(name, "LANTERNROW_") || name == "DATABASE_URL" {
			t.Setenv(name, value)
			_ = os.Unsetenv(name)
		}
	}
	readme, err := os.ReadFile(filepath.Join("..", "..", "..", "README.md"))
	if err != nil {
		t.Fatal(err)
	}
	documented := map[string]string{}
	for _, m := range regexp.MustCompile("(?m)^\\| `([A-Z0-9_]+)` \\| (?:`([^`]*)`|none) \\|").FindAllStringSubmatch(string(readme), -1) {
		documented[m[1]] = m[2]
	}
	read := func(c Config) map[string]string {
		wd, _ := os.Getwd()
		run, _ := filepath.Rel(wd, c.RunDir)
		return map[string]string{"LANTERNROW_ADDRESS": c.Address, "DATABASE_URL": c.DatabaseURL, "LANTERNROW_SERVE_URL": c.ServeURL, "LANTERNROW_RUN": run,
			"LANTERNROW_SECURE_COOKIE": c.SecureCookie, "LANTERNROW_METRICS_TOKEN": c.MetricsToken, "LANTERNROW_LOG": c.Log, "LANTERNROW_IDLE": strings.NewReplacer("h0m0s", "h", "m0s", "m").Replace(c.Idle.String()), "LANTERNROW_GS1_PREFIX": c.CompanyPrefix,
			"LANTERNROW_SCHEDULES": fmt.Sprint(c.Schedules), "LANTERNROW_STANDINS": fmt.Sprint(c.StandIns),
			"LANTERNROW_KEEP": strings.ReplaceAll(c.Keep.String(), "0m0s", ""), "LANTERNROW_HEAD_FILE": c.HeadFile, "LANTERNROW_HEAD_KEY": c.HeadKey,
			"LANTERNROW_REPORTS_URL": c.ReportsURL, "LANTERNROW_PROXIES": c.Proxies}
	}
	source, err := os.ReadFile("config.go")
	if err != nil {
		t.Fatal(err)
	}
	for name, value := range read(FromEnvironment()) {
		if said, there := documented[name]; !there || said != value {
			t.Errorf("%s is %q by default, and the README says %q", name, value, said)
		}
		if !regexp.MustCompile(name + "[.,]").Match(source) {
			t.Errorf("the documentation of %s in config.go does not give its default", name)
		}
	}
	for name, value := range map[string]string{"LANTERNROW_ADDRESS": "0.0.0.0:99", "DATABASE_URL": "postgres://x", "LANTERNROW_RUN": "elsewhere", "LANTERNROW_SECURE_COOKIE": "true", "LANTERNROW_GS1_PREFIX": "952999", "LANTERNROW_SCHEDULES": "false",
		"LANTERNROW_IDLE": "45m", "LANTERNROW_LOG": "info", "LANTERNROW_METRICS_TOKEN": "figs", "LANTERNROW_SERVE_URL": "postgres://y", "LANTERNROW_STANDINS": "true",
		"LANTERNROW_KEEP": "1000h", "LANTERNROW_HEAD_FILE": "/elsewhere/heads", "LANTERNROW_HEAD_KEY": "/etc/key",
		"LANTERNROW_REPORTS_URL": "postgres://z", "LANTERNROW_PROXIES": "10.88.0.0/16, 192.0.2.7"} {
		t.Setenv(name, value)
		if got := read(FromEnvironment())[name]; got != value {
			t.Errorf("%s=%s is read as %q", name, value, got)
		}
	}
	for name, wrong := range map[string]string{"LANTERNROW_IDLE": "soon", "LANTERNROW_LOG": "loud", "LANTERNROW_SECURE_COOKIE": "perhaps", "LANTERNROW_KEEP": "a year",
		"LANTERNROW_PROXIES": "the one in the hall"} {
		t.Run(name, func(t *testing.T) {
			t.Setenv(name, wrong)
			if err := FromEnvironment().Check(); err == nil || !strings.Contains(err.Error(), name) || !strings.Contains(err.Error(), wrong) {
				t.Errorf("%s=%s is said to be wrong by %v", name, wrong, err)
			}
		})
	}
	if len(documented) != 16 {
		t.Errorf("the README documents %d settings: %v", len(documented), documented)
	}
}
