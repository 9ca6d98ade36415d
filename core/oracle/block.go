package oracle

// pin is one input or output of a standard block; no type means what its counter counts in.
type pin struct {
	name, typed string
	out         bool
}

var timerPins = []pin{{"in", "bool", false}, {"pt", "time", false}, {"q", "bool", true}, {"et", "time", true}}

var pins = map[string][]pin{
	"SR":     {{"s1", "bool", false}, {"r", "bool", false}, {"q1", "bool", true}},
	"RS":     {{"s", "bool", false}, {"r1", "bool", false}, {"q1", "bool", true}},
	"R_TRIG": {{"clk", "bool", false}, {"q", "bool", true}},
	"F_TRIG": {{"clk", "bool", false}, {"q", "bool", true}},
	"CTU":    {{"cu", "bool", false}, {"r", "bool", false}, {"pv", "", false}, {"q", "bool", true}, {"cv", "", true}},
	"CTD":    {{"cd", "bool", false}, {"ld", "bool", false}, {"pv", "", false}, {"q", "bool", true}, {"cv", "", true}},
	"CTUD": {{"cu", "bool", false}, {"cd", "bool", false}, {"r", "bool", false}, {"ld", "bool", false}, {"pv", "", false},
		{"qu", "bool", true}, {"qd", "bool", true}, {"cv", "", true}},
	"TON": timerPins, "TOF": timerPins, "TP": timerPins,
	"TACC": {{"in", "bool", false}, {"r", "bool", false}, {"pt", "time", false}, {"q", "bool", true}, {"et", "time", true}},
}

// standard runs a standard block by its row of the language page.
func (o *Interpreter) standard(c *cell) {
	on := func(name string) bool { return c.members[name].i != 0 }
	number := func(name string) int64 { return c.members[name].i }
	set := func(name string, v int64) { c.members[name].i = v }
	flag := func(name string, v bool) { c.members[name].i = truth(v) }
	rises := func(name string) bool {
		edge := on(name) && c.hidden[name] == 0
		c.hidden[name] = truth(on(name))
		return edge
	}
	switch c.t.block {
	case "SR":
		flag("q1", on("s1") || !on("r") && on("q1"))
	case "RS":
		flag("q1", !on("r1") && (on("s") || on("q1")))
	case "R_TRIG":
		flag("q", on("clk") && c.hidden["m"] == 0)
		c.hidden["m"] = truth(on("clk"))
	case "F_TRIG":
		flag("q", !on("clk") && c.hidden["m"] == 0)
		c.hidden["m"] = truth(!on("clk"))
	case "CTU":
		if up := rises("cu"); on("r") {
			set("cv", 0)
		} else if up && number("cv") != most(c.t.counts) {
			set("cv", number("cv")+1)
		}
		flag("q", !less(c.t.counts, number("cv"), number("pv")))
	case "CTD":
		if down := rises("cd"); on("ld") {
			set("cv", number("pv"))
		} else if down && number("cv") != least(c.t.counts) {
			set("cv", number("cv")-1)
		}
		flag("q", !less(c.t.counts, 0, number("cv")))
	case "CTUD":
		up, down := rises("cu"), rises("cd")
		switch {
		case on("r"):
			set("cv", 0)
		case on("ld"):
			set("cv", number("pv"))
		case up && !down && number("cv") != most(c.t.counts):
			set("cv", number("cv")+1)
		case down && !up && number("cv") != least(c.t.counts):
			set("cv", number("cv")-1)
		}
		flag("qu", !less(c.t.counts, number("cv"), number("pv")))
		flag("qd", !less(c.t.counts, 0, number("cv")))
	default:
		o.timer(c, on, number, set, flag)
	}
}

func most(t *typ) int64 {
	if t.family == signedFamily {
		return 1<<(t.bits-1) - 1
	}
	return int64(^uint64(0) >> (64 - t.bits))
}

func least(t *typ) int64 {
	if t.family == signedFamily {
		return -1 << (t.bits - 1)
	}
	return 0
}

func less(t *typ, x, y int64) bool {
	if t.family == signedFamily {
		return x < y
	}
	return uint64(x) < uint64(y)
}

// timer runs a timer. A negative preset counts as zero, and ET never exceeds PT. Once a delay has come to its end it
// stays there until its input turns, whatever the preset becomes.
func (o *Interpreter) timer(c *cell, on func(string) bool, number func(string) int64, set func(string, int64), flag func(string, bool)) {
	pt := number("pt")
	if pt < 0 {
		pt = 0
	}
	in, now := on("in"), o.now()
	h := c.hidden
	capped := func(t int64) int64 { return min(t, pt) }
	switch c.t.block {
	case "TON":
		switch {
		case !in:
			h["on"], h["done"] = 0, 0
			set("et", 0)
		case h["on"] == 0:
			h["on"], h["from"] = 1, now
			fallthrough
		default:
			if h["done"] == 0 {
				set("et", capped(now-h["from"]))
				h["done"] = truth(number("et") >= pt)
			} else {
				set("et", capped(number("et")))
			}
		}
		flag("q", in && h["done"] != 0)
	case "TOF":
		switch {
		case in:
			h["tail"], h["ready"] = 0, 1
			set("et", 0)
			flag("q", true)
		case h["ready"] != 0:
			h["ready"], h["tail"], h["from"] = 0, 1, now
			fallthrough
		case h["tail"] != 0:
			set("et", capped(now-h["from"]))
			if number("et") >= pt {
				h["tail"] = 0
				flag("q", false)
			}
		default:
			set("et", capped(number("et")))
		}
	case "TP":
		if h["runs"] == 0 && h["spent"] == 0 && in {
			h["runs"], h["from"] = 1, now
		}
		switch {
		case h["runs"] != 0 && now-h["from"] < pt:
			set("et", now-h["from"])
			flag("q", true)
			return
		case h["runs"] != 0:
			h["runs"], h["spent"] = 0, 1
			set("et", pt)
		}
		flag("q", false)
		if in {
			set("et", capped(number("et")))
			return
		}
		h["spent"] = 0
		set("et", 0)
	case "TACC":
		et := number("et")
		if h["was"] != 0 && in {
			et += now - h["last"]
		}
		h["was"], h["last"] = truth(in), now
		if on("r") {
			et = 0
		}
		set("et", capped(et))
		flag("q", number("et") >= pt)
	}
}
