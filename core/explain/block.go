package explain

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/check"
)

// standard explains an output of a standard block by its inputs and what it has timed or counted.
func (a *Asker) standard(s *Step, w *writer) {
	s.Kind, s.Place = "block", a.placeOf(w.place)
	f := face{a: a, name: w.name, scan: s.Scan, block: w.call.Instance.Type().Block.Standard}
	told := f.first(f.block.Tells)
	said, follow, cause := f.say(told), told.Follow, f.cause(told)
	if turned, at := f.turned(s.Signal); at > 0 {
		follow, cause = turned.Follow, at
		if turned.Say != "" {
			past := f
			past.scan = at
			said = past.say(turned)
		}
	}
	s.Say = said
	if waits := f.first(f.block.Waits); f.isPowerOut(s.Signal) {
		s.waits = waits.When != nil
		s.second(f.say(waits))
		if s.Second == "" && s.waits {
			s.Second = "it takes its time" // which the sentence tells: 20 ms of 300 ms
		}
	}
	if v, _ := a.value(s.Signal, s.Scan); v == 0 && s.Since == 0 && s.Second == "" {
		s.Second = "it began so" // which the sentence tells: from the start
	}
	deed := a.moment(s.Scan).writerOf(s.Signal)
	if deed == nil {
		s.Say = fmt.Sprintf("%s was not called in %s and kept its values. %s", w.name, a.at(s.Scan), said)
		return
	}
	now := deed
	if earlier := a.moment(cause).writerOf(s.Signal); earlier != nil {
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
		if now.scan > deed.scan && e.Since > deed.scan && !e.passed && slices.ContainsFunc(s.Elements,
			func(known Element) bool { return known.Start == e.Start && !known.passed }) {
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
	a     *Asker
	name  string
	scan  int
	block *block.Block
}

func (f face) on(member string) bool { return f.a.isTrue(f.name+"."+member, f.scan) }

func (f face) word(member string) string { return f.a.word(f.name+"."+member, f.scan) }

// since is "since scan 412 (4.12 s)", or "from the start".
func (f face) since(member string) string {
	return f.a.sinceWords(f.a.since(f.name+"."+member, f.scan))
}

// cause is the scan whose contacts tell why: of an off-delay that has run off the one in which its input went FALSE, whatever kept
// it so afterwards; of most the scan itself.
func (f face) cause(s block.Saying) int {
	if s.Cause == "" {
		return f.scan
	}
	if member, before := strings.CutPrefix(s.Cause, "before "); before {
		return max(f.changed(member)-1, 0)
	}
	return f.changed(s.Cause)
}

// turned says what changed an output that keeps its value, and in which scan; 0 where nothing has.
func (f face) turned(signal string) (s block.Saying, scan int) {
	if len(f.block.Turns) == 0 {
		return block.Saying{}, 0
	}
	past := f
	if past.scan = f.a.since(signal, f.scan); past.scan == 0 || past.scan == f.a.restarted(f.scan) {
		return block.Saying{}, 0
	}
	return past.first(f.block.Turns), past.scan
}

// changed is the scan in which a member changed last; 0 where it is as it began.
func (f face) changed(member string) int { return f.a.since(f.name+"."+member, f.scan) }

// isPowerOut reports whether a signal is the instance's way out.
func (f face) isPowerOut(signal string) bool {
	return strings.EqualFold(signal, f.name+"."+f.block.PowerOut().Name)
}

// wiped returns "The restart in scan 15 (150 ms)" where one gave a member the value that it has had since, while what is timed or counted
// began at zero; else "".
func (f face) wiped(member string) string {
	at, measure := f.a.restarted(f.scan), f.block.Measure().Name
	if measure == "" {
		measure = member
	}
	began, _ := f.a.value(f.name+"."+measure, at)
	if at <= 0 || began != 0 || f.changed(member) != at {
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

// first returns the first of the sayings that holds; the zero Saying where none does.
func (f face) first(list []block.Saying) block.Saying {
	for _, s := range list {
		if !slices.ContainsFunc(s.When, func(word string) bool { return !f.holds(word) }) {
			return s
		}
	}
	return block.Saying{}
}

// holds reports whether one word of a [block.Saying] is true.
func (f face) holds(word string) bool {
	if rest, not := strings.CutPrefix(word, "!"); not {
		return !f.holds(rest)
	}
	switch words := strings.Fields(word); {
	case word == "restarted":
		return f.scan > 0 && f.a.restarted(f.scan) == f.scan
	case len(words) == 1:
		return f.on(word)
	case words[0] == "new":
		return f.changed(words[1]) == f.scan
	case words[0] == "never":
		return f.changed(words[1]) == 0
	case words[0] == "wiped":
		return f.wiped(words[1]) != ""
	case words[0] == "lately":
		pt, _ := f.a.value(f.name+"."+f.block.Preset().Name, f.scan)
		return int64(f.scan-f.changed(words[1]))*int64(f.a.trace.Period) < pt
	case len(words) == 3 && words[1] == "after":
		return f.changed(words[0]) > f.changed(words[2])
	}
	panic("explain: a saying holds when " + word + ", which is unknown")
}

var filled = regexp.MustCompile(`\{[^}]*\}`)

// say fills a saying's places.
func (f face) say(s block.Saying) string {
	return filled.ReplaceAllStringFunc(s.Say, func(place string) string {
		word := strings.Trim(place, "{}")
		what, member, _ := strings.Cut(word, " ")
		switch {
		case word == "name":
			return f.name
		case word == "now":
			return f.a.at(f.scan)
		case word == "timing":
			return f.timing()
		case member == "":
			return f.word(word)
		case what == "since":
			return f.since(member)
		case what == "at":
			return f.a.at(f.changed(member))
		case what == "Wiped":
			return f.wiped(member)
		case what == "wiped":
			return strings.Replace(f.wiped(member), "The", "the", 1)
		}
		panic("explain: a saying has " + place + ", which is unknown")
	})
}
