package ui

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"io/fs"
	"net/http"
	"path"
	"strings"
	"sync"
	"time"
)

//go:embed static
var static embed.FS

// staticFile is a script, style, font or picture that ships with the application.
type staticFile struct {
	data  []byte
	print string // the fingerprint of what is in it
}

// printed is how many characters a fingerprint has.
const printed = 10

// staticFiles are all of them by name. Styles name their fonts with their fingerprints.
var staticFiles = sync.OnceValue(func() map[string]staticFile {
	out := map[string]staticFile{}
	entries, err := fs.ReadDir(static, "static")
	if err != nil {
		panic("ui: " + err.Error()) // they ship with the program
	}
	add := func(name string, data []byte) {
		sum := sha256.Sum256(data)
		out[name] = staticFile{data, hex.EncodeToString(sum[:])[:printed]}
	}
	for _, e := range entries {
		if data, err := static.ReadFile("static/" + e.Name()); err == nil && path.Ext(e.Name()) != ".css" {
			add(e.Name(), data)
		}
	}
	for _, e := range entries {
		data, err := static.ReadFile("static/" + e.Name())
		if err != nil || path.Ext(e.Name()) != ".css" {
			continue
		}
		for name := range out {
			data = bytes.ReplaceAll(data, []byte("/static/"+name), []byte(fingerprinted(out, name)))
		}
		add(e.Name(), data)
	}
	return out
})

// fingerprinted is the address of a static file: with its fingerprint, so that a browser may keep
// it and yet has the newest after an upgrade.
func fingerprinted(files map[string]staticFile, name string) string {
	ext := path.Ext(name)
	return "/static/" + strings.TrimSuffix(name, ext) + "." + files[name].print + ext
}

// staticAt is the address of a static file that ships with the application.
func staticAt(name string) string { return fingerprinted(staticFiles(), name) }

// named takes the fingerprint out of the name of a static file.
func named(asked string) (name, print string) {
	ext := path.Ext(asked)
	base := strings.TrimSuffix(asked, ext)
	if at := strings.LastIndexByte(base, '.'); at >= 0 && len(base)-at-1 == printed {
		return base[:at] + ext, base[at+1:]
	}
	return asked, ""
}

// Static serves the scripts, styles and fonts that ship with the application. What is asked
// for with its fingerprint is kept for a year; the page of an older version that is still
// open gets what there is now, and what other sites name without one is asked for anew
// after an hour.
func Static() http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name, print := named(strings.TrimPrefix(r.URL.Path, "/static/"))
		file, ok := staticFiles()[name]
		if !ok {
			http.NotFound(w, r)
			return
		}
		kept := "public, max-age=3600"
		switch print {
		case "":
		case file.print:
			kept = "public, max-age=31536000, immutable"
		default:
			kept = "no-cache"
		}
		w.Header().Set("Cache-Control", kept)
		http.ServeContent(w, r, name, time.Time{}, bytes.NewReader(file.data))
	})
}
