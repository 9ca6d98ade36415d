package cli

import (
	"io"
	"time"

	"github.com/schollz/progressbar/v3"
)

// progress is a bar where a person watches and there is something to wait for.
func progress(w io.Writer, what string, n int) *progressbar.ProgressBar {
	if width(w) == 0 || n < 5 {
		return progressbar.DefaultSilent(int64(n))
	}
	return progressbar.NewOptions(n, progressbar.OptionSetWriter(w), progressbar.OptionSetDescription(what), progressbar.OptionShowCount(),
		progressbar.OptionClearOnFinish())
}

// Busy shows, where a person watches, that something goes on whose length is not known, until the returned function is called.
func Busy(w io.Writer, what string) (done func()) {
	if width(w) == 0 {
		return func() {}
	}
	bar := progressbar.NewOptions(-1, progressbar.OptionSetWriter(w), progressbar.OptionSetDescription(what),
		progressbar.OptionSetElapsedTime(true),
		progressbar.OptionSpinnerType(14), progressbar.OptionSetSpinnerChangeInterval(100*time.Millisecond), progressbar.OptionClearOnFinish())
	return func() { _ = bar.Finish() } // a bar that cannot be drawn is no reason to fail
}
