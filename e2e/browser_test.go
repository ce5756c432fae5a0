package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/chromedp"
)

// page is one tab of a headless Chromium, 1280 by 800.
type page struct {
	t         *testing.T
	ctx       context.Context
	downloads string
}

// openPage starts a browser that nothing of other tests is in.
func openPage(t *testing.T) *page {
	t.Helper()
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.NoSandbox, chromedp.WindowSize(1280, 800), chromedp.UserDataDir(t.TempDir()),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("hide-scrollbars", false))
	allocated, cancel := chromedp.NewExecAllocator(context.Background(), options...)
	t.Cleanup(cancel)
	ctx, cancel := chromedp.NewContext(allocated)
	t.Cleanup(cancel)
	p := &page{t: t, ctx: ctx, downloads: t.TempDir()}
	p.do(chromedp.EmulateViewport(1280, 800))
	if _, err := chromedp.CallBrowser(ctx, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{
		Behavior: browser.SetDownloadBehaviorBehaviorAllow, DownloadPath: p.downloads,
	}); err != nil {
		t.Fatal(err)
	}
	// The browser has started without a time limit; what is done in it has one.
	p.ctx, cancel = context.WithTimeout(ctx, 90*time.Second)
	t.Cleanup(cancel)
	return p
}

func (p *page) do(steps ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	if err := chromedp.Do(p.ctx, steps...); err != nil {
		body, _ := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.body?.innerText ?? ""`))
		p.t.Fatalf("%v; the page says:\n%s", err, body)
	}
}

func (p *page) open(path string) {
	p.t.Helper()
	p.do(chromedp.Navigate(server+path), chromedp.WaitVisible(chromedp.CSS("main h1")))
}

// eval returns what an expression gives in the page, or what its promise does.
func eval[T any](p *page, expression string) T {
	p.t.Helper()
	value, err := chromedp.Run(p.ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
	if err != nil {
		p.t.Fatalf("%.200s: %v", expression, err)
	}
	return value
}

// text returns what an element shows, "" while it is not there.
func (p *page) text(selector string) string {
	return eval[string](p, fmt.Sprintf(`document.querySelector(%q)?.innerText ?? ""`, selector))
}

// shows waits until an element shows a text.
func (p *page) shows(selector, text string) {
	p.t.Helper()
	eventually(p.t, fmt.Sprintf("%s shows %q", selector, text), func() bool { return strings.Contains(p.text(selector), text) })
}

// fill replaces what stands in a field.
func (p *page) fill(selector, text string) {
	p.t.Helper()
	p.do(chromedp.Focus(chromedp.CSS(selector)), chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector(%q).select()`, selector)), chromedp.KeyEvent("\b"))
	if text != "" {
		p.do(chromedp.SendKeys(chromedp.CSS(selector), text))
	}
}

// press clicks the button or link with that text.
func (p *page) press(text string) {
	p.t.Helper()
	p.do(chromedp.Click(chromedp.Search(fmt.Sprintf(`//*[self::a or self::button][contains(normalize-space(.), %q)]`, text))))
}

func TestFindFillPreviewAndDownload(t *testing.T) {
	p := openPage(t)
	p.open("/")
	p.shows("main", "Crossing board")
	p.do(chromedp.SendKeys(chromedp.CSS(`input[type=search]`), "batch daily"))
	p.shows("[role=status]", "1 template")
	p.press("Tide log")
	p.shows("main", "Readme of the source project")
	p.shows("main", "1.0.0") // among its versions
	p.press("Cast a project")

	const job = "#variable-job"
	p.do(chromedp.WaitVisible(chromedp.CSS(job)))
	p.shows("[aria-label=Preview]", "tide_log.ini")
	p.fill(job, "Fuel Report")
	p.shows("[aria-label=Preview]", "fuel_report.ini")
	p.shows("[aria-label=Preview]", "fuel-report/")
	p.press("job.py")
	p.shows("[data-testid=code]", "FuelReport")
	tinted := eval[string](p, `[...document.querySelectorAll("[data-testid=code] .slot")].map(e => e.innerText).join(" ")`)
	if !strings.Contains(tinted, "fuel_report") || !strings.Contains(tinted, "Fuel Report") {
		t.Errorf("tinted are: %s", tinted)
	}
	if hues := eval[int](p, `new Set([...document.querySelectorAll(".swatch")].map(e => getComputedStyle(e).backgroundColor)).size`); hues < 6 {
		t.Errorf("six variables have %d tints", hues)
	}

	// What is wrong is said beside its field, and nothing is cast.
	p.fill("#variable-interval", "99")
	p.shows("form", "99 is above the maximum of 59")
	p.press("Download .tar.gz")
	p.fill("#variable-interval", "30")
	eventually(t, "the field is right again", func() bool { return !strings.Contains(p.text("form"), "above the maximum") })
	p.do(chromedp.Click(chromedp.CSS("#variable-compress")), chromedp.Click(chromedp.CSS("#variable-units")))
	p.do(chromedp.Click(chromedp.Search(`//*[@role="option"][contains(., "Feet")]`)))
	p.shows("[data-testid=command]", "job='Fuel Report' interval=30 units=feet compress=false --no-ask")

	p.press("Download .tar.gz")
	archive := filepath.Join(p.downloads, "fuel-report.tar.gz")
	p.shows("form", "fuel-report.tar.gz")
	eventually(t, "the archive is there", func() bool { info, err := os.Stat(archive); return err == nil && info.Size() > 0 })
	if listed, _ := os.ReadDir(p.downloads); len(listed) != 1 {
		t.Errorf("downloads are %v", listed)
	}
	unpacked := t.TempDir()
	in(t, unpacked, "tar", "xzf", archive)
	if output := in(t, filepath.Join(unpacked, "fuel-report"), "make", "test"); !strings.Contains(output, "OK") {
		t.Errorf("the project's tests say\n%s", output)
	}

	// The command line that is shown gives the same project, but for new ids.
	command := p.text("[data-testid=command]")
	shell := in(t, unpacked, "sh", "-c", strings.Replace(command, "ironcast cast", binary+" cast --server "+server, 1)+" 2>&1 || true")
	if !strings.Contains(shell, "is not empty") {
		t.Errorf("a cast over the unpacked project says\n%s", shell)
	}
	in(t, unpacked, "mv", "fuel-report", "by-console")
	in(t, unpacked, "sh", "-c", strings.Replace(command, "ironcast cast", binary+" cast --server "+server, 1))
	in(t, unpacked, "diff", "-r", "--exclude=origin.yaml", "--ignore-matching-lines=job_*[iI]d", "by-console", "fuel-report")

	// The address carries the values.
	address := eval[string](p, "location.pathname + location.search")
	other := openPage(t)
	other.open(address)
	other.shows("[aria-label=Preview]", "fuel_report.ini")
	if units := other.text("#variable-units"); units != "Feet" {
		t.Errorf("the link brings %q for the units", units)
	}
}

func TestFilesShowSlotsInPlace(t *testing.T) {
	p := openPage(t)
	p.open("/catalogue/kelpwick/crossing-board?tab=files&file=deploy/Dockerfile")
	p.shows("[data-testid=code]", "EXPOSE 8087")
	slots := eval[[]string](p, `[...document.querySelectorAll("[data-testid=code] .slot")].map(e => e.dataset.variable + ":" + e.innerText)`)
	joined := strings.Join(slots, " ")
	for _, want := range []string{"service:crossing-board", "deploy_id:3F0C7C1E-8A55-4F5E-9A44-6A52B7A1F0DE", "port:8087"} {
		if !strings.Contains(joined, want) {
			t.Errorf("%s is not among %s", want, joined)
		}
	}
	p.press("badge.png")
	p.shows("main", "This file is no text")
	p.open("/catalogue/kelpwick/crossing-board?version=1.0.0")
	p.shows("main h1", "1.0.0")
	if strings.Contains(p.text("table"), "Contact") {
		t.Error("the earlier version has the later one's variable")
	}
	p.press("how it works")
	p.shows("[data-testid=code]", "hangs over the gates")
	p.open("/catalogue/kelpwick/crossing-board")
	p.do(chromedp.Navigate(server + "/catalogue/kelpwick/none"))
	p.shows("[role=alert]", "The template kelpwick/none is not there.")
}

func TestLogInMakeATokenLogOut(t *testing.T) {
	p := openPage(t)
	p.open("/login")
	p.do(chromedp.SendKeys(chromedp.CSS("input[name=name]"), "operator"), chromedp.SendKeys(chromedp.CSS("input[name=password]"), "wrong\r"))
	p.shows("[role=alert]", "There is no account with that name and password.")
	p.fill("input[name=password]", password+"\r")
	p.shows("main h1", "operator")
	p.do(chromedp.SendKeys(chromedp.CSS("input[name=label]"), "release pipeline\r"))
	p.shows("main", "shown once")
	p.shows("table", "release pipeline")
	secret := p.text("main code")
	env := append(environment(), "XDG_CONFIG_HOME="+t.TempDir(), "IRONCAST_TOKEN="+secret)
	if r := runWith(t, env, "", "publish", filepath.Join(projects, "tide-log"), "--server", server); r.code != 0 {
		t.Errorf("publishing with the token gives %+v", r)
	}
	p.press("Log out")
	p.shows("header", "Log in")
}

// Every page, in both themes, fits the window, reads well enough for WCAG 2.1
// AA as far as axe-core can tell, and complains of nothing in the console.
// choose takes an option of a select.
func (p *page) choose(selector, option string) {
	p.t.Helper()
	p.do(chromedp.Click(chromedp.CSS(selector)), chromedp.Click(chromedp.Search(fmt.Sprintf(`//*[@role="option"][contains(., %q)]`, option))))
}

func TestTheFormFollowsPresetsAndAnswers(t *testing.T) {
	p := openPage(t)
	p.open("/cast/piers/pier-guide")
	p.do(chromedp.WaitVisible(chromedp.CSS("#variable-guide")))
	p.fill("#variable-guide", "island guide")

	// What a preset brings is seen in the form, in the tree and in the address.
	if there := p.text("form"); strings.Contains(there, "Latitude") {
		t.Errorf("the form asks for what no page shows:\n%s", there)
	}
	p.choose("#preset", "Everything")
	p.shows("form", "Latitude of the pier")
	p.shows("[aria-label=Preview]", "map.html")
	p.shows("[data-testid=command]", "--preset full")
	p.shows("[aria-label=Preview]", "island_guide")
	p.do(chromedp.Click(chromedp.CSS("#variable-pages-map"))) // a page less than the preset has
	p.shows("form", "1 file is left out")
	eventually(t, "the question that depends on it is gone", func() bool { return !strings.Contains(p.text("form"), "Latitude") })
	p.shows("[data-testid=command]", "pages=timetable,shop")

	// A list has an entry on each line, and each becomes one of the page.
	p.fill("#variable-desks", "east desk")
	p.do(chromedp.SendKeys(chromedp.CSS("#variable-desks"), "\rWest Desk"))
	p.press("index.html")
	p.shows("[data-testid=code]", "west-desk")
	p.shows("[data-testid=code]", "East Desk")
	p.shows("form", "Year, computed")
	p.press("guide.json")
	p.shows("[aria-label=Preview]", "written by a script")

	// What is marked in the source is shown in place.
	p.open("/catalogue/piers/pier-guide?tab=files&file=site/index.html")
	p.shows("[data-testid=code]", "ironcast: only when search")
	if titles := eval[string](p, `[...document.querySelectorAll("[data-testid=code] .marked-line")].map(e => e.title).join("|")`); !strings.Contains(titles, "only when search|") || !strings.Contains(titles, "otherwise") {
		t.Errorf("the marked lines say %s", titles)
	}
}

func TestASecretStaysInItsField(t *testing.T) {
	p := openPage(t)
	p.open("/cast/kelpwick/harbour-suite?suite=pier+office&broker_password=from-a-link")
	p.do(chromedp.WaitVisible(chromedp.CSS("#variable-broker_password")))
	if value := eval[string](p, `document.querySelector("#variable-broker_password").value`); value != "" {
		t.Errorf("a link brings the secret %q", value)
	}
	p.fill("#variable-broker_password", "barnacle-lantern")
	p.shows("[data-testid=command]", "IRONCAST_SECRET_BROKER_PASSWORD=…")
	p.press("broker.env")
	p.shows("[data-testid=code]", "BROKER_PASSWORD=•••")
	if page := eval[string](p, "document.body.innerText + location.href"); strings.Contains(page, "barnacle") {
		t.Errorf("the secret is shown:\n%s", page)
	}
	p.press("Download .tar.gz")
	p.shows("[role=dialog]", "Run the tests of all 8 modules")
	archive := filepath.Join(p.downloads, "pier-office.tar.gz")
	eventually(t, "the archive is there", func() bool { info, err := os.Stat(archive); return err == nil && info.Size() > 0 })
	unpacked := t.TempDir()
	in(t, unpacked, "tar", "xzf", archive)
	if holding := in(t, unpacked, "grep", "-rl", "barnacle-lantern", "."); strings.TrimSpace(holding) != "./pier-office/deploy/broker.env" {
		t.Errorf("the secret stands in %s", holding)
	}
	in(t, filepath.Join(unpacked, "pier-office"), "make", "test")
}

func TestPagesAreAccessibleInBothThemes(t *testing.T) {
	axe, err := os.ReadFile("../console/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal(err)
	}
	p := openPage(t)
	for _, theme := range []string{"light", "dark"} {
		for _, path := range []string{
			"/catalogue", "/catalogue?words=nothing+like+it", "/catalogue/kelpwick/crossing-board",
			"/catalogue/kelpwick/crossing-board?tab=files&file=config/crossing-board.yaml",
			"/cast/crossings/tide-log?job=fuel+report&interval=99", "/login",
			"/cast/piers/pier-guide?guide=island+guide&preset=full", "/cast/kelpwick/harbour-suite?preset=small",
			"/catalogue/piers/pier-guide?tab=files&file=site/index.html", "/catalogue/crossings/tide-log",
		} {
			p.open(path)
			p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`localStorage.setItem("theme", %q)`, theme)))
			p.open(path)
			p.do(chromedp.Sleep(700 * time.Millisecond))
			if got := eval[string](p, "document.documentElement.dataset.theme"); got != theme {
				t.Errorf("%s is in the theme %s", path, got)
			}
			if width := eval[int](p, "document.documentElement.scrollWidth"); width > 1280 {
				t.Errorf("%s is %d pixels wide", path, width)
			}
			p.do(chromedp.Evaluate[chromedp.Void](string(axe)))
			found := eval[string](p, `axe.run({runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]}).then(r => JSON.stringify(r.violations.map(v => [v.id, v.nodes.slice(0, 3).map(n => n.html + " " + n.failureSummary)])))`)
			var violations []any
			if err := json.Unmarshal([]byte(found), &violations); err != nil || len(violations) > 0 {
				t.Errorf("%s in the %s theme: %s", path, theme, found)
			}
		}
	}
}

func TestTheConsoleWorksByKeyboardAlone(t *testing.T) {
	p := openPage(t)
	p.open("/cast/kelpwick/crossing-board")
	p.do(chromedp.WaitVisible(chromedp.CSS("#variable-service")))
	focused := func() string {
		return eval[string](p, `document.activeElement.id || document.activeElement.innerText || document.activeElement.getAttribute("aria-label") || ""`)
	}
	reach := func(want string) {
		t.Helper()
		for range 120 {
			if strings.Contains(focused(), want) {
				return
			}
			p.do(chromedp.KeyEvent("\t"))
		}
		t.Fatalf("%s cannot be reached by the Tab key", want)
	}
	reach("variable-service")
	p.do(chromedp.KeyEvent("tide gauge"))
	p.shows("[aria-label=Preview]", "tide-gauge.yaml")
	reach("Download .tar.gz")
	reach("README.md")
	p.do(chromedp.KeyEvent("\r"))
	p.shows("[data-testid=code]", "# Tide Gauge")
}
