// Package browser drives the real interface in headless Chromium.
package browser

import (
	"fmt"
	"os"
	"os/exec"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/launcher/flags"
	"github.com/go-rod/rod/lib/proto"
	"github.com/go-rod/rod/lib/utils"
)

// Patience is how long anything on a page is waited for.
const Patience = time.Minute

// launches is how often a browser is started that does not come up.
const launches = 3

// Launch starts the Chromium of this machine; close ends it.
func Launch() (b *rod.Browser, closeAll func(), err error) {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return nil, nil, fmt.Errorf("chromium is needed (make setup-tests installs it): %w", err)
	}
	for range launches { // once in a hundred times it ends at once
		if b, closeAll, err = launch(path); err == nil {
			return b, closeAll, nil
		}
	}
	return nil, nil, err
}

func launch(path string) (b *rod.Browser, closeAll func(), err error) {
	l := launcher.New().Bin(path).Headless(true).NoSandbox(true)
	for _, f := range []string{"disable-gpu", "disable-quic", "no-first-run", "disable-background-networking",
		"disable-component-update", "disable-sync", "hide-scrollbars", "disable-renderer-backgrounding",
		"disable-background-timer-throttling", "disable-backgrounding-occluded-windows"} {
		l = l.Set(flags.Flag(f))
	}
	address, err := l.Launch()
	if err != nil {
		l.Kill()
		return nil, nil, fmt.Errorf("starting chromium: %w", err)
	}
	b = rod.New().ControlURL(address).Sleeper(often)
	if err := b.Connect(); err != nil {
		l.Kill()
		return nil, nil, err
	}
	return b, func() {
		_ = b.Close()
		l.Cleanup()
	}, nil
}

// Page opens an address in a window of its own, with its own session.
func Page(b *rod.Browser, url string, width, height int) (*rod.Page, error) {
	private, err := b.Incognito()
	if err != nil {
		return nil, err
	}
	p, err := private.Page(proto.TargetCreateTarget{NewWindow: true})
	if err != nil {
		return nil, err
	}
	if err := p.SetViewport(
		&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: height, DeviceScaleFactor: 1},
	); err != nil {
		return nil, err
	}
	// Several people look at their pages at once: none of them is put to sleep.
	if err := (proto.EmulationSetFocusEmulationEnabled{Enabled: true}).Call(p); err != nil {
		return nil, err
	}
	// A page that asks whether to leave is left.
	go p.EachEvent(func(*proto.PageJavascriptDialogOpening) {
		_ = proto.PageHandleJavaScriptDialog{Accept: true}.Call(p)
	})()
	return p, p.Timeout(Patience).Navigate(url)
}

// often is how what is waited for is looked for: soon, and then every 150 ms.
func often() utils.Sleeper {
	return utils.BackoffSleeper(20*time.Millisecond, 150*time.Millisecond, nil)
}

// Shoot writes a picture of what a page shows now.
func Shoot(p *rod.Page, file string) error {
	png, err := p.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
	if err != nil {
		return err
	}
	return os.WriteFile(file, png, 0o644)
}
