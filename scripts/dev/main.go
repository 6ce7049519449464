// Command dev serves the application, builds it again whenever a source, a template, a style or
// a script is saved, and has the pages that stand open loaded anew. The data stays. It stands in
// front of the application as a proxy, so that the application itself knows nothing of it.
//
//	dev COMMAND ARGUMENTS…
//
// COMMAND is run again after each build, with LAZO_LISTEN set to an address of its own; dev
// listens at the LAZO_LISTEN that it was given itself.
package main

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"io/fs"
	"log"
	"net"
	"net/http"
	"net/http/httputil"
	"net/url"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/fsnotify/fsnotify"
)

// settled is for how long nothing has to be saved before it is built: editors save in several
// steps, and several files at once.
const settled = 150 * time.Millisecond

// reload asks which build it is once a second, and loads the page anew when it is another.
const reload = `(() => {
	let built;
	const ask = () => fetch("/-/built").then((answer) => answer.text()).then((now) => {
		if (built && built !== now) location.reload();
		built = now;
	}).catch(() => {}).finally(() => setTimeout(ask, 700));
	ask();
})();
`

func main() {
	log.SetFlags(0)
	if len(os.Args) < 2 {
		log.Fatal("dev COMMAND ARGUMENTS…")
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	inner, err := free()
	if err != nil {
		log.Fatal(err)
	}
	a := &application{command: os.Args[1:], listen: inner}
	a.start()
	defer a.stop()
	server := &http.Server{Addr: os.Getenv("LAZO_LISTEN"), Handler: a.proxy(), ReadHeaderTimeout: time.Minute}
	go func() {
		if err := server.ListenAndServe(); err != nil && ctx.Err() == nil {
			log.Print(err)
			stop()
		}
	}()
	fmt.Printf("\nhttp://%s, which is built again when a file is saved\n\n", server.Addr)
	if err := watch(ctx, func(styles bool) { a.rebuild(styles) }); err != nil {
		log.Print(err)
	}
	_ = server.Close()
}

// free is an address that nobody listens at.
func free() (string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	return l.Addr().String(), l.Close()
}

// application is the program that is served.
type application struct {
	command []string
	listen  string
	running *exec.Cmd
	built   atomic.Int64 // which build it is
}

func (a *application) start() {
	a.running = exec.Command(a.command[0], a.command[1:]...)
	a.running.Env = append(os.Environ(), "LAZO_LISTEN="+a.listen, "LAZO_DRAIN=0s",
		"LAZO_BASE_URL=http://"+os.Getenv("LAZO_LISTEN"))
	a.running.Stdout, a.running.Stderr = os.Stdout, os.Stderr
	if err := a.running.Start(); err != nil {
		log.Print(err)
		return
	}
	for range 200 { // pages are loaded anew once it answers
		if c, err := net.Dial("tcp", a.listen); err == nil {
			_ = c.Close()
			break
		}
		time.Sleep(25 * time.Millisecond)
	}
	a.built.Add(1)
}

func (a *application) stop() {
	if a.running == nil || a.running.Process == nil {
		return
	}
	_ = a.running.Process.Signal(syscall.SIGTERM)
	_ = a.running.Wait()
}

// rebuild builds what was saved; what can't be built is said, and the program before stays.
func (a *application) rebuild(styles bool) {
	began := time.Now()
	if styles && !run("bash", "scripts/assets.sh") || !run("go", "build", "-o", a.command[0], "./cmd/lazo") {
		return
	}
	a.stop()
	a.start()
	log.Printf("built and started in %s", time.Since(began).Round(10*time.Millisecond))
}

func run(name string, args ...string) bool {
	c := exec.Command(name, args...)
	c.Stdout, c.Stderr = os.Stdout, os.Stderr
	return c.Run() == nil
}

// proxy passes requests on, and puts a script into pages that loads them anew.
func (a *application) proxy() http.Handler {
	to := &url.URL{Scheme: "http", Host: a.listen}
	pass := &httputil.ReverseProxy{
		Rewrite: func(r *httputil.ProxyRequest) {
			r.SetURL(to)
			r.Out.Host = r.In.Host
			r.Out.Header.Del("Accept-Encoding")
		},
		ModifyResponse: withReload,
	}
	mux := http.NewServeMux()
	mux.HandleFunc("/-/built", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, a.built.Load()) })
	mux.HandleFunc("/-/reload.js", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/javascript")
		_, _ = io.WriteString(w, reload)
	})
	mux.Handle("/", pass)
	return mux
}

func withReload(res *http.Response) error {
	if !strings.HasPrefix(res.Header.Get("Content-Type"), "text/html") {
		return nil
	}
	page, err := io.ReadAll(res.Body)
	if err != nil {
		return err
	}
	page = bytes.Replace(page, []byte("</body>"), []byte(`<script src="/-/reload.js"></script></body>`), 1)
	res.Body = io.NopCloser(bytes.NewReader(page))
	res.Header.Set("Content-Length", strconv.Itoa(len(page)))
	return nil
}

// watch calls changed after sources were saved, until ctx ends; styles tells that templates,
// styles or scripts are among them.
func watch(ctx context.Context, changed func(styles bool)) error {
	w, err := fsnotify.NewWatcher()
	if err != nil {
		return err
	}
	defer w.Close()
	err = filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !d.IsDir() {
			return err
		}
		switch name := d.Name(); { // what is made of sources, and what isn't ours
		case name == "node_modules", name == "static", name == "testdata", name != "." && strings.HasPrefix(name, "."):
			return filepath.SkipDir
		}
		return w.Add(path)
	})
	if err != nil {
		return err
	}
	saved, styles := time.NewTimer(time.Hour), false
	for {
		select {
		case <-ctx.Done():
			return nil
		case err := <-w.Errors:
			return err
		case e := <-w.Events:
			kind := filepath.Ext(e.Name)
			if e.Op == fsnotify.Chmod || strings.HasSuffix(e.Name, "_test.go") {
				continue
			}
			switch kind {
			case ".html", ".css", ".js":
				styles = true
			case ".go", ".json", ".sql":
			default:
				continue
			}
			saved.Reset(settled)
		case <-saved.C:
			changed(styles)
			styles = false
		}
	}
}
