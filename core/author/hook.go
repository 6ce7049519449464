package author

import (
	"net/url"
	"slices"
	"strings"
	"time"

	"lazo/core/form"
)

// HookAt is what a hook is called among what can be at hand in the manuscript.
func HookAt(key string) string { return "hook-" + key }

// AddHook begins a hook: a program at an address that is told of every response.
type AddHook struct {
	URL string `form:"label"`
}

func (c AddHook) Do(f *form.Form, _ time.Time) (Doing, error) {
	to, host, err := hookAddress(c.URL)
	if err != nil {
		return Doing{}, err
	}
	if len(f.Hooks) >= form.MaxMessages {
		return Doing{}, misfit("a form tells at most %d programs", form.MaxMessages)
	}
	taken := map[string]bool{}
	for _, h := range f.Hooks {
		taken[h.Key] = true
	}
	first, _, _ := strings.Cut(host, ".")
	h := form.Hook{Key: form.FreeKey(form.ProposeKey(first), "hook", taken), URL: to}
	return Doing{Edit: withHooks(append(slices.Clone(f.Hooks), h)), At: HookAt(h.Key)}, nil
}

// hookAddress reads where a hook leads.
func hookAddress(text string) (to, host string, err error) {
	text = strings.TrimSpace(text)
	u, err := url.Parse(text)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.User != nil {
		return "", "", misfit("an address such as https://desk.example/boats was expected, “%s” was found", text)
	}
	return text, u.Hostname(), nil
}

func withHooks(hooks []form.Hook) form.Edit { return form.SetProperty("", "hooks", hooks) }

func hook(f *form.Form, key string) (int, error) {
	i := slices.IndexFunc(f.Hooks, func(h form.Hook) bool { return h.Key == key })
	if i < 0 {
		return 0, misfit("this program is no longer there")
	}
	return i, nil
}

// SetHook sets a property of a hook: its url or its events.
type SetHook struct {
	Hook     string   `form:"hook"` // its key
	Property string   `form:"property"`
	Value    string   `form:"value"`
	Events   []string `form:"event"`
}

func (c SetHook) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: HookAt(c.Hook)}
	i, err := hook(f, c.Hook)
	if err != nil {
		return d, err
	}
	hooks := slices.Clone(f.Hooks)
	switch c.Property {
	case "url":
		if hooks[i].URL, _, err = hookAddress(c.Value); err != nil {
			return d, err
		}
	case "events":
		events := ticked(c.Events)
		if len(events) == 0 {
			return d, misfit("a program is told of something at least")
		}
		if len(events) == len(form.HookEvents) {
			events = nil
		}
		hooks[i].Events = events
	default:
		return d, misfit("a hook has no “%s”", c.Property)
	}
	d.Edit = withHooks(hooks)
	return d, nil
}

// RemoveHook takes a hook out.
type RemoveHook struct {
	Hook string `form:"hook"`
}

func (c RemoveHook) Do(f *form.Form, _ time.Time) (Doing, error) {
	i, err := hook(f, c.Hook)
	if err != nil {
		return Doing{}, err
	}
	return Doing{Edit: withHooks(slices.Delete(slices.Clone(f.Hooks), i, i+1))}, nil
}
