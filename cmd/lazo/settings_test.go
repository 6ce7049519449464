package main

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// sound are settings in which nothing is wrong.
func sound() settings {
	return settings{database: database{Database: "postgres://lazo@127.0.0.1/lazo"}, Listen: "127.0.0.1:8080", Log: "text",
		Level: "info", Hourly: 1000, Deliver: true,
		Base: "https://forms.club.example", Secure: true, SMTP: "smtp://mail.club.example", From: "office@club.example"}
}

func TestEveryFaultOfTheSettingsIsSaidAtOnce(t *testing.T) {
	c := sound()
	assert.Empty(t, c.faults())
	for name, one := range map[string]struct {
		spoil func(c *settings)
		says  string
	}{
		"database":   {func(c *settings) { c.Database = "foo:bar" }, "LAZO_DATABASE_URL: it is no address"},
		"replica":    {func(c *settings) { c.Replica = "foo:bar" }, "LAZO_REPLICA_URL: it is no address"},
		"listen":     {func(c *settings) { c.Listen = "8080" }, `LAZO_LISTEN: "8080" is no address`},
		"figures":    {func(c *settings) { c.Figures = c.Listen }, "LAZO_FIGURES: figures need an address of their own"},
		"base":       {func(c *settings) { c.Base = "forms.club.example" }, "LAZO_BASE_URL: "},
		"path":       {func(c *settings) { c.Base = "https://club.example/forms" }, "LAZO_BASE_URL: "},
		"not secure": {func(c *settings) { c.Secure = false }, "LAZO_SECURE: LAZO_BASE_URL is reached by https"},
		"secure":     {func(c *settings) { c.Base = "http://club.example" }, "LAZO_BASE_URL: LAZO_SECURE says"},
		"smtp":       {func(c *settings) { c.SMTP = "ftp://mail.club.example" }, "LAZO_SMTP_URL: "},
		"no from":    {func(c *settings) { c.From = "" }, "LAZO_MAIL_FROM: letters need"},
		"from":       {func(c *settings) { c.From = "office" }, `LAZO_MAIL_FROM: "office" is no e-mail address`},
		"files":      {func(c *settings) { c.FilesMB = -1 }, "LAZO_FILES_MB: -1 is below nothing"},
		"hourly":     {func(c *settings) { c.Hourly = 0 }, "LAZO_LETTERS_AN_HOUR: "},
		"log":        {func(c *settings) { c.Log = "xml" }, `LAZO_LOG: "xml" is neither`},
		"proxies":    {func(c *settings) { c.Proxies = []string{"10.0.0"} }, `LAZO_PROXIES: "10.0.0" is no network`},
		"hooks":      {func(c *settings) { c.Hooks = []string{"here"} }, `LAZO_HOOK_NETWORKS: "here" is no network`},
	} {
		c := sound()
		one.spoil(&c)
		assert.Contains(t, fmt.Sprint(c.faults()), one.says, name)
	}
	c.Database, c.Listen, c.Log, c.From = "foo:bar", "8080", "xml", "office"
	assert.Len(t, c.faults(), 4)
}

// What can't be read is told with the rest, not before it.
func TestSettingsThatAreNoNumbersAreToldWithTheRest(t *testing.T) {
	for variable, text := range map[string]string{"LAZO_SECURE": "perhaps", "LAZO_FILES_MB": "plenty",
		"LAZO_FORM_FILES_MB":   "5.5",
		"LAZO_LETTERS_AN_HOUR": "1000"} {
		t.Setenv(variable, text)
	}
	setAside()
	defer func() { unreadable = nil }()
	c := sound()
	c.Listen = "8080"
	said := fmt.Sprint(c.faults())
	for _, one := range []string{`LAZO_SECURE: "perhaps" is neither true nor false`,
		`LAZO_FILES_MB: "plenty" is no whole number`,
		`LAZO_FORM_FILES_MB: "5.5" is no whole number`, "LAZO_LISTEN: "} {
		assert.Contains(t, said, one)
	}
	assert.Len(t, c.faults(), 4)
	assert.Equal(t, "1000", os.Getenv("LAZO_LETTERS_AN_HOUR"))
}

// A copy that is only looked at sends nothing, and says so.
func TestACopyThatIsLookedAtSendsNothing(t *testing.T) {
	for _, delivers := range []bool{true, false} {
		c := sound()
		c.Deliver = delivers
		office, err := c.office(nil, nil)
		require.NoError(t, err)
		assert.Equal(t, delivers, office.Sends())
		assert.Equal(t, !delivers, office.Holds())
		assert.Equal(t, !delivers, strings.Contains(strings.Join(c.notes(), " "), "LAZO_DELIVER is false"))
	}
}
