package explain

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
)

// standard explains an output of a standard block by its inputs and what it has timed or counted.
func (a *Asker) standard(s *Step, w *writer) {
	s.Kind, s.Place = "block", placeOf(w.place)
	f := face{a: a, name: w.name, scan: s.Scan, family: w.call.Instance.Type().Block.Family()}
	said, follow := f.tell(s.Signal)
	s.Say = said
	s.second(f.needs(s.Signal))
	if v, _ := a.value(s.Signal, s.Scan); v == 0 && s.Since == 0 && s.Second == "" {
		s.Second = "it began so" // which the sentence tells: from the start
	}
	deed := a.moment(s.Scan).writerOf(s.Signal)
	if deed == nil {
		s.Say = fmt.Sprintf("%s was not called in %s and kept its values. %s", w.name, a.at(s.Scan), said)
		return
	}
	now := deed
	if earlier := a.moment(f.begun()).writerOf(s.Signal); earlier != nil {
		deed = earlier
	}
	if w.net != nil {
		s.Elements, _ = a.leading(deed, w.net, w.at)
		if power := w.call.Instance.Type().Block.PowerIn(); power == nil || follow != power.Name {
			undecided(s.Elements)
		} else {
			s.second(a.meanwhile(s, deed, now, w))
		}
	}
	for _, in := range w.call.Inputs {
		if in.Value == nil || in.Member.Type != check.Bool {
			continue
		}
		s.Elements = append(s.Elements, a.leaves(deed, in.Value, follow == in.Member.Name)...)
	}
}

// meanwhile says what else has come to keep the power from a block since the scan whose contacts tell the cause.
func (a *Asker) meanwhile(s *Step, deed, now *deed, w *writer) string {
	list, reached := a.leading(now, w.net, w.at)
	if reached {
		return ""
	}
	var more []Element
	for _, e := range decisive(list) {
		if now.scan > deed.scan && e.Since > deed.scan && !e.passed && slices.ContainsFunc(s.Elements, func(known Element) bool { return known.Start == e.Start && !known.passed }) {
			return fmt.Sprintf("%s has been closed since, while another contact was open", e.Text)
		}
		if !slices.ContainsFunc(decisive(s.Elements), func(known Element) bool { return known.Start == e.Start }) {
			more = append(more, e)
		}
	}
	if len(more) == 0 {
		return a.behind(now, w.net, w.at)
	}
	return fmt.Sprintf("By now %s keeps its input FALSE, too", a.listed(s.Scan, more, nil))
}

// A face is a standard block's members at a scan.
type face struct {
	a      *Asker
	name   string
	scan   int
	family string
}

func (f face) on(member string) bool { return f.a.isTrue(f.name+"."+member, f.scan) }

func (f face) word(member string) string { return f.a.word(f.name+"."+member, f.scan) }

// since is "since scan 412 (4.12 s)", or "from the start".
func (f face) since(member string) string {
	return f.a.sinceWords(f.a.since(f.name+"."+member, f.scan))
}

// begun is the scan whose contacts tell the cause: of an off-delay that has run off the one in which its input went FALSE, whatever kept it so
// afterwards; of all else the scan itself.
func (f face) begun() int {
	if f.family != "TOF" || f.on("IN") || f.on("Q") || f.a.since(f.name+".Q", f.scan) == 0 || f.wiped("Q", "ET") != "" {
		return f.scan
	}
	return f.a.since(f.name+".IN", f.scan)
}

// wiped returns "The restart in scan 15 (150 ms)" where one gave a member the value that it has had since, while the elapsed time or the
// count began at zero; else "".
func (f face) wiped(member, measure string) string {
	at := f.a.restarted(f.scan)
	began, _ := f.a.value(f.name+"."+measure, at)
	if at <= 0 || began != 0 || f.a.since(f.name+"."+member, f.scan) != at {
		return ""
	}
	return "The restart in " + f.a.at(at)
}

// timing is since when a timer runs: since its input is TRUE, or since a restart in which it began anew.
func (f face) timing() string {
	at := f.a.restarted(f.scan)
	if began, _ := f.a.value(f.name+".ET", at); at > f.a.since(f.name+".IN", f.scan) && began == 0 {
		return "since the restart in " + f.a.at(at)
	}
	return f.since("IN")
}

// tell says what the block is doing, and names the input whose cause is worth following.
func (f face) tell(signal string) (say, follow string) {
	switch f.family {
	case "TON":
		return f.onDelay()
	case "TOF":
		return f.offDelay()
	case "TP":
		return f.pulse()
	case "TACC":
		return f.accumulating()
	case "CTU", "CTD", "CTUD":
		return f.counter()
	case "R_TRIG":
		if f.on("Q") && f.scan > 0 && f.a.restarted(f.scan) == f.scan {
			return fmt.Sprintf("%s saw CLK TRUE in %s, the first scan after a restart.", f.name, f.a.at(f.scan)), "CLK"
		}
		if f.on("Q") {
			return fmt.Sprintf("%s saw CLK go TRUE in %s.", f.name, f.a.at(f.scan)), "CLK"
		}
		return fmt.Sprintf("%s saw no rising edge in %s: CLK has been %s %s.", f.name, f.a.at(f.scan), f.word("CLK"), f.since("CLK")), ""
	case "F_TRIG":
		if f.on("Q") {
			return fmt.Sprintf("%s saw CLK go FALSE in %s.", f.name, f.a.at(f.scan)), "CLK"
		}
		return fmt.Sprintf("%s saw no falling edge in %s: CLK has been %s %s.", f.name, f.a.at(f.scan), f.word("CLK"), f.since("CLK")), ""
	case "SR":
		return f.latch("S1", "R")
	}
	return f.latch("S", "R1")
}

// needs says what else than the input that is followed keeps the value so: the time that a delay would take from there.
func (f face) needs(signal string) string {
	if !strings.HasSuffix(strings.ToLower(signal), ".q") || f.on("Q") || f.on("IN") || f.family != "TON" && f.family != "TACC" {
		return ""
	}
	pt, _ := f.a.value(f.name+".PT", f.scan)
	since := f.a.since(f.name+".IN", f.scan)
	if int64(f.scan-since)*int64(f.a.trace.Period) >= pt && f.family == "TON" {
		return ""
	}
	return fmt.Sprintf("From when it is TRUE it takes %s", f.word("PT"))
}

func (f face) onDelay() (string, string) {
	switch {
	case !f.on("IN"):
		return fmt.Sprintf("The timer %s is not timing: its input has been FALSE %s.", f.name, f.since("IN")), "IN"
	case f.on("Q"):
		return fmt.Sprintf("The timer %s reached its %s in %s.", f.name, f.word("PT"), f.a.at(f.a.since(f.name+".Q", f.scan))), "IN"
	}
	return fmt.Sprintf("The timer %s has run %s of %s, %s.", f.name, f.word("ET"), f.word("PT"), f.timing()), ""
}

func (f face) offDelay() (string, string) {
	switch {
	case f.on("IN"):
		return fmt.Sprintf("The off-delay %s is on as long as its input is TRUE, as it has been %s.", f.name, f.since("IN")), "IN"
	case f.on("Q"):
		return fmt.Sprintf("The off-delay %s stays on for %s after its input: %s have run, %s.", f.name, f.word("PT"), f.word("ET"), f.since("IN")), ""
	case f.a.since(f.name+".Q", f.scan) == 0:
		return fmt.Sprintf("The off-delay %s has never had its input TRUE.", f.name), "IN"
	case f.wiped("Q", "ET") != "":
		return fmt.Sprintf("%s ended the off-delay %s; its input has been FALSE %s.", f.wiped("Q", "ET"), f.name, f.since("IN")), "IN"
	}
	return fmt.Sprintf("The off-delay %s went off in %s, %s after its input.", f.name, f.a.at(f.a.since(f.name+".Q", f.scan)), f.word("PT")), "IN"
}

func (f face) pulse() (string, string) {
	switch {
	case f.on("Q"):
		return fmt.Sprintf("The pulse of %s has run %s of %s, %s.", f.name, f.word("ET"), f.word("PT"), f.since("Q")), ""
	case f.a.since(f.name+".Q", f.scan) == 0:
		return fmt.Sprintf("%s has given no pulse: its input has been FALSE %s.", f.name, f.since("IN")), "IN"
	case f.wiped("Q", "ET") != "":
		return fmt.Sprintf("%s ended the pulse of %s; its input has been FALSE %s.", f.wiped("Q", "ET"), f.name, f.since("IN")), "IN"
	case f.on("IN"):
		return fmt.Sprintf("The pulse of %s ended in %s; while its input stays TRUE there is no other.", f.name, f.a.at(f.a.since(f.name+".Q", f.scan))), ""
	}
	return fmt.Sprintf("The pulse of %s ended in %s; its input is FALSE, and only a new one would start another.", f.name, f.a.at(f.a.since(f.name+".Q", f.scan))), ""
}

func (f face) accumulating() (string, string) {
	switch {
	case f.on("R"):
		return fmt.Sprintf("The timer %s is held at zero by R.", f.name), "R"
	case f.on("Q"):
		return fmt.Sprintf("The timer %s has added up its %s in %s.", f.name, f.word("PT"), f.a.at(f.a.since(f.name+".Q", f.scan))), "IN"
	case f.on("IN"):
		return fmt.Sprintf("The timer %s has added up %s of %s and is running, %s.", f.name, f.word("ET"), f.word("PT"), f.since("IN")), ""
	}
	return fmt.Sprintf("The timer %s has added up %s of %s; its input has been FALSE %s.", f.name, f.word("ET"), f.word("PT"), f.since("IN")), "IN"
}

func (f face) counter() (string, string) {
	counted := fmt.Sprintf("The counter %s stands at %s, its preset is %s", f.name, f.word("CV"), f.word("PV"))
	switch {
	case f.family != "CTD" && f.on("R"):
		return counted + "; R holds it at zero.", "R"
	case f.family != "CTU" && f.on("LD"):
		return counted + "; LD loads it.", "LD"
	}
	if changed := f.a.since(f.name+".CV", f.scan); changed > 0 {
		if restart := f.wiped("CV", "CV"); restart != "" {
			return counted + ": " + lower(restart) + " set it back.", ""
		}
		counted += fmt.Sprintf("; it changed last in %s", f.a.at(changed))
		if f.family != "CTD" && f.a.since(f.name+".R", f.scan) == 0 {
			counted += ", and its R has been FALSE from the start"
		}
		return counted + ".", ""
	}
	return counted + "; it has not counted yet.", ""
}

func (f face) latch(set, reset string) (string, string) {
	if f.on("Q1") {
		return fmt.Sprintf("%s is set, %s.", f.name, f.since("Q1")), set
	}
	if last := f.a.since(f.name+"."+set, f.scan); f.on(reset) && !f.on(set) && last > f.a.since(f.name+"."+reset, f.scan) {
		return fmt.Sprintf("%s was reset in %s: %s went FALSE while %s was TRUE.", f.name, f.a.at(last), set, reset), set
	}
	if f.on(reset) {
		return fmt.Sprintf("%s is reset: %s is TRUE, %s.", f.name, reset, f.since(reset)), reset
	}
	if restart := f.wiped("Q1", "Q1"); restart != "" {
		return fmt.Sprintf("%s reset %s; %s has been FALSE %s.", restart, f.name, set, f.since(set)), set
	}
	return fmt.Sprintf("%s is not set: %s has been FALSE %s.", f.name, set, f.since(set)), set
}
