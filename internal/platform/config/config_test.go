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
	forget(t)
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
			"LANTERNROW_REPORTS_URL": c.ReportsURL, "LANTERNROW_PROXIES": c.Proxies, "LANTERNROW_SMTP": c.SMTP, "LANTERNROW_MAIL_FROM": c.MailFrom}
	}
	source, err := os.ReadFile("config.go")
	if err != nil {
		t.Fatal(err)
	}
	c, err := Load()
	if err != nil {
		t.Fatal(err)
	}
	for name, value := range read(c) {
		if said, there := documented[name]; !there || said != value {
			t.Errorf("%s is %q by default, and the README says %q", name, value, said)
		}
		if !regexp.MustCompile(name + "[.,]").Match(source) {
			t.Errorf("the documentation of %s in config.go does not give its default", name)
		}
	}
	others := map[string]string{"LANTERNROW_ADDRESS": "0.0.0.0:99", "DATABASE_URL": "postgres://x", "LANTERNROW_RUN": "elsewhere", "LANTERNROW_SECURE_COOKIE": "true", "LANTERNROW_GS1_PREFIX": "952999", "LANTERNROW_SCHEDULES": "false",
		"LANTERNROW_IDLE": "45m", "LANTERNROW_LOG": "info", "LANTERNROW_METRICS_TOKEN": "figs", "LANTERNROW_SERVE_URL": "postgres://y", "LANTERNROW_STANDINS": "true",
		"LANTERNROW_KEEP": "1000h", "LANTERNROW_HEAD_FILE": "/elsewhere/heads", "LANTERNROW_HEAD_KEY": "/etc/key",
		"LANTERNROW_REPORTS_URL": "postgres://z", "LANTERNROW_PROXIES": "10.88.0.0/16, 192.0.2.7"}
	for name, value := range others {
		t.Setenv(name, value)
	}
	if c, err = Load(); err != nil {
		t.Fatal(err)
	}
	for name, got := range read(c) {
		if value := others[name]; got != value {
			t.Errorf("%s=%s is read as %q", name, value, got)
		}
	}
	for name, wrong := range map[string]string{"LANTERNROW_IDLE": "soon", "LANTERNROW_LOG": "loud", "LANTERNROW_SECURE_COOKIE": "perhaps", "LANTERNROW_KEEP": "a year",
		"LANTERNROW_PROXIES": "the one in the hall", "LANTERNROW_STANDINS": "yes", "LANTERNROW_SCHEDULES": "on", "LANTERNROW_ADDRESS": "8080",
		"LANTERNROW_GS1_PREFIX": "952"} {
		t.Run(name, func(t *testing.T) {
			t.Setenv(name, wrong)
			if _, err := Load(); err == nil || !strings.Contains(err.Error(), name) || !strings.Contains(err.Error(), wrong) {
				t.Errorf("%s=%s is said to be wrong by %v", name, wrong, err)
			}
		})
	}
	if len(documented) != 19 || documented["LANTERNROW_SETTINGS"] != usualFile {
		t.Errorf("the README documents %d settings: %v", len(documented), documented)
	}
}

// forget takes every setting out of the environment, and has no file read but one that is empty.
func forget(t *testing.T) (file string) {
	t.Helper()
	for _, entry := range os.Environ() {
		if name, value, _ := strings.Cut(entry, "="); isOurs(name) {
			t.Setenv(name, value)
			_ = os.Unsetenv(name)
		}
	}
	file = filepath.Join(t.TempDir(), "lanternrow.env")
	write(t, file, "")
	t.Setenv("LANTERNROW_SETTINGS", file)
	return file
}

func write(t *testing.T, file, text string) {
	t.Helper()
	if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
}

// TestSettingsAreReadFromAFileWhereTheEnvironmentNamesNoHouse: a command at the console means the house that is served, and
// two houses are never mixed.
func TestSettingsAreReadFromAFileWhereTheEnvironmentNamesNoHouse(t *testing.T) {
	file := forget(t)
	write(t, file, "# the house at the quay\nDATABASE_URL=postgres://owner:a$b%23d@db/house?sslmode=disable\n\nLANTERNROW_LOG=info\nLANTERNROW_IDLE='45m'\n"+
		"LANTERNROW_SMTP=smtp://mail\nLANTERNROW_MAIL_FROM=Quay House <a@example.org>\n")
	t.Setenv("LANTERNROW_LOG", "error")
	c, err := Load()
	if err != nil || c.File != file || c.DatabaseURL != "postgres://owner:a$b%23d@db/house?sslmode=disable" || c.Log != "error" || c.Idle.Minutes() != 45 ||
		c.SMTP != "smtp://mail" || c.MailFrom != "Quay House <a@example.org>" {
		t.Errorf("read from a file, with the log as the environment says: %v, %+v", err, c)
	}
	t.Setenv("LANTERNROW_RUN", t.TempDir())
	if c, err = Load(); err != nil || c.File != "" || c.DatabaseURL != "" || c.Idle.Hours() != 2 {
		t.Errorf("the environment names a house, and the file was read: %v, %+v", err, c)
	}
	t.Setenv("LANTERNROW_RUN", "")
	for text, said := range map[string]string{"LANTERNROW_IDEL=2h": "no setting LANTERNROW_IDEL; there are DATABASE_URL", "PGHOST=db": "no setting PGHOST",
		"LANTERNROW_IDLE=soon": `LANTERNROW_IDLE is "soon"`, "LANTERNROW_SMTP=smtp://mail": "go together",
		"LANTERNROW_SMTP=smtp://mail\nLANTERNROW_MAIL_FROM=a@example.org\nLANTERNROW_STANDINS=true": "leave one out", "LANTERNROW_LOG": "line 1"} {
		if write(t, file, text); !fails(Load, said) {
			t.Errorf("%s is not refused with: %s", text, said)
		}
	}
	write(t, file, "")
	t.Setenv("LANTERNROW_SETTINGS", file+"-gone")
	if !fails(Load, "no such file") {
		t.Error("a file that is named and is not there is passed over")
	}
}

func fails(load func() (Config, error), said string) bool {
	_, err := load()
	return err != nil && strings.Contains(err.Error(), said)
}
