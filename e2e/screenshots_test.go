package e2e

import (
	"encoding/json"
	"flag"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/creack/pty"
)

var screenshots = flag.Bool("screenshots", false, "write the pictures in docs/screenshots anew")

// picture writes what the page shows as docs/screenshots/NAME.png.
func (p *page) picture(name string) {
	p.t.Helper()
	p.do(chromedp.Sleep(time.Second))
	png, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		p.t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join("..", "docs", "screenshots", name+".png"), png, 0o666); err != nil {
		p.t.Fatal(err)
	}
}

func (p *page) theme(name string) {
	p.t.Helper()
	p.open("/catalogue")
	p.do(chromedp.Evaluate[chromedp.Void](`localStorage.setItem("theme", "` + name + `")`))
}

func TestScreenshots(t *testing.T) {
	if !*screenshots {
		return // nothing is checked here
	}
	p := openPage(t)
	p.theme("light")
	p.open("/catalogue")
	p.shows("main", "Crossing board")
	p.picture("catalogue")
	p.open("/catalogue/kelpwick/crossing-board")
	p.shows("main", "Versions")
	p.picture("template")
	p.open("/catalogue/kelpwick/crossing-board?tab=files&file=config/crossing-board.yaml")
	p.shows("[data-testid=code]", "deploy_id")
	p.picture("files")
	p.open("/cast/crossings/tide-log?job=fuel+report&interval=99")
	p.shows("form", "above the maximum")
	p.picture("cast-light")
	p.open("/cast/kelpwick/harbour-suite?suite=pier+office&regions=main+quay&regions=gull+island&libraries=example.com%2Fcharts%40v1.4.0")
	p.do(chromedp.SendKeys(chromedp.CSS("#variable-broker_password"), "not-a-real-password"))
	p.shows("[aria-label=Preview]", "gull-island")
	p.press("go.work")
	p.shows("[data-testid=code]", "regions/gull-island")
	p.picture("options")
	p.press("Download .tar.gz")
	p.shows("[role=dialog]", "Run the tests")
	p.picture("next-steps")
	p.open("/catalogue/piers/pier-guide?tab=files&file=site/index.html")
	p.shows("[data-testid=code]", "ironcast: only when")
	p.picture("marks")
	p.theme("dark")
	p.open("/cast/kelpwick/crossing-board?service=tide+gauge")
	p.shows("[data-testid=code]", "tide-gauge")
	p.picture("cast-dark")
	p.theme("light")
	p.open("/login")
	p.do(chromedp.SendKeys(chromedp.CSS("input[name=name]"), "operator"), chromedp.SendKeys(chromedp.CSS("input[name=password]"), password+"\r"))
	p.shows("main h1", "operator")
	p.picture("account")

	top := t.TempDir()
	in(t, top, "cp", "-R", filepath.Join(projects, "try", "crossing-board"), "crossing-board")
	terminal(t, "survey", top, "ironcast survey crossing-board")
	terminal(t, "define", top, "ironcast define crossing-board --accept all --team piers", "ironcast prove crossing-board")
	terminal(t, "prove", projects, "ironcast prove harbour-suite --run", "ironcast explain harbour-suite gateway/main.go")
	terminal(t, "publish", top, "ironcast publish crossing-board", "ironcast find", "ironcast show piers/crossing-board")
	terminal(t, "cast", top, "ironcast cast piers/crossing-board tide-gauge project='tide gauge' --no-ask", "cd tide-gauge && go test ./...", "cat .ironcast/origin.yaml")
}

// terminal runs commands one after the other in a terminal of 120 columns, and
// writes what it shows as a picture.
func terminal(t *testing.T, name, dir string, commands ...string) {
	t.Helper()
	var script strings.Builder
	for _, command := range commands {
		script.WriteString("printf '\\033[1;38;5;208m$\\033[0m %s\\n' \"" + strings.ReplaceAll(command, `"`, `\"`) + "\"\n" + command + "\necho\n")
	}
	shell := exec.Command("sh", "-c", script.String())
	shell.Dir = dir
	shell.Env = append(environment(), "TERM=xterm-256color", "COLORTERM=truecolor", "PATH="+work+":"+os.Getenv("PATH"), "CLICOLOR_FORCE=1")
	for i, setting := range shell.Env {
		if strings.HasPrefix(setting, "NO_COLOR=") {
			shell.Env[i] = "UNUSED="
		}
	}
	opened, err := pty.StartWithSize(shell, &pty.Winsize{Rows: 42, Cols: 120})
	if err != nil {
		t.Fatal(err)
	}
	var raw strings.Builder
	buffer := make([]byte, 4096)
	for {
		n, err := opened.Read(buffer)
		raw.Write(buffer[:n])
		if strings.Contains(string(buffer[:n]), "\x1b]11;?") {
			opened.WriteString("\x1b]11;rgb:1717/1616/1414\x07\x1b[1;1R") // a dark terminal
		}
		if err != nil {
			break
		}
	}
	shell.Wait()
	p := openPage(t)
	p.do(chromedp.Navigate("about:blank"))
	for _, file := range []string{"lib/xterm.js", "css/xterm.css"} {
		text, err := os.ReadFile("../console/node_modules/@xterm/xterm/" + file)
		if err != nil {
			t.Fatal(err)
		}
		if strings.HasSuffix(file, ".css") {
			p.do(chromedp.Evaluate[chromedp.Void](`{const s = document.createElement("style"); s.textContent = ` + quote(string(text)) + ` + "body{margin:0;background:#171614;padding:10px}"; document.head.append(s)}`))
			continue
		}
		p.do(chromedp.Evaluate[chromedp.Void](string(text)))
	}
	p.do(chromedp.Evaluate[chromedp.Void](`{const shown = new Terminal({rows: 42, cols: 120, fontSize: 14.5, fontFamily: "Liberation Mono, monospace", lineHeight: 1.1, cursorInactiveStyle: "none", theme: {background: "#171614", foreground: "#ece5da"}}); const host = document.createElement("div"); document.body.append(host); shown.open(host); shown.write(` + quote(raw.String()) + `)}`))
	p.picture(name)
}

// quote writes a text as a JavaScript string.
func quote(text string) string {
	encoded, _ := json.Marshal(text)
	return string(encoded)
}
