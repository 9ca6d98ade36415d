package main

import (
	"github.com/dop251/goja"
	"github.com/expr-lang/expr"
	"github.com/expr-lang/expr/vm"
	lua "github.com/yuin/gopher-lua"
	"go.starlark.net/starlark"
)

// The same logic for embeddable engines, without the timers and the counter,
// which they would have to write out at length: what they run is less, not more.

const luaText = `
function scan()
  mist = (on or mist) and off
  vent = mist
  fan = mist
  if rain and not vent then shade = true end
  if not rain and door then shade = false end
  alarm = bed_temp > 350 and not vent
  lamp = alarm or full or shade
  if tray and not rise then total = total + 1 end
  rise = tray
  local power = (on and door or rain and not door) and not alarm
  vent = power
  if power and not rain then shade = true end
  local fell = fall and not tray
  fall = tray
  lamp = fell and mist and off and not taken
end`

const javascript = `
var on=true,off=true,door=false,rain=false,tray=false,taken=false,bed_temp=215,mist=false,vent=false,shade=false,fan=false,full=false,alarm=false,lamp=false,total=0,rise=false,fall=false;
function scan() {
  mist = (on || mist) && off; vent = mist; fan = mist;
  if (rain && !vent) shade = true;
  if (!rain && door) shade = false;
  alarm = bed_temp > 350 && !vent;
  lamp = alarm || full || shade;
  if (tray && !rise) total = total + 1;
  rise = tray;
  var power = (on && door || rain && !door) && !alarm;
  vent = power;
  if (power && !rain) shade = true;
  var fell = fall && !tray;
  fall = tray;
  lamp = fell && mist && off && !taken;
}`

const starlarkText = `
def scan(s):
  s["mist"] = (s["on"] or s["mist"]) and s["off"]
  s["vent"] = s["mist"]
  s["fan"] = s["mist"]
  if s["rain"] and not s["vent"]: s["shade"] = True
  if not s["rain"] and s["door"]: s["shade"] = False
  s["alarm"] = s["bed_temp"] > 350 and not s["vent"]
  s["lamp"] = s["alarm"] or s["full"] or s["shade"]
  if s["tray"] and not s["rise"]: s["total"] = s["total"] + 1
  s["rise"] = s["tray"]
  power = (s["on"] and s["door"] or s["rain"] and not s["door"]) and not s["alarm"]
  s["vent"] = power
  if power and not s["rain"]: s["shade"] = True
  fell = s["fall"] and not s["tray"]
  s["fall"] = s["tray"]
  s["lamp"] = fell and s["mist"] and s["off"] and not s["taken"]
`

// exprTexts are the right sides; Go code writes what they give.
var exprTexts = []struct{ target, text string }{
	{"mist", "(on or mist) and off"}, {"vent", "mist"}, {"fan", "mist"}, {"shade", "rain and not vent or shade"},
	{"shade", "not (not rain and door) and shade"},
	{"alarm", "bed_temp > 350 and not vent"}, {"lamp", "alarm or full or shade"}, {"rise", "tray"},
	{"vent", "(on and door or rain and not door) and not alarm"},
	{"shade", "vent and not rain or shade"}, {"fall", "tray"}, {"lamp", "fall and not tray and mist and off and not taken"},
}

var names = []string{"on", "off", "door", "rain", "tray", "taken", "mist", "vent", "shade", "fan", "full", "alarm", "lamp", "rise", "fall"}

func luaScan() func() {
	state := lua.NewState()
	for _, n := range names {
		state.SetGlobal(n, lua.LBool(n == "on" || n == "off"))
	}
	state.SetGlobal("total", lua.LNumber(0))
	state.SetGlobal("bed_temp", lua.LNumber(215))
	must(state.DoString(luaText))
	scan := state.GetGlobal("scan")
	return func() { must(state.CallByParam(lua.P{Fn: scan, Protect: true})) }
}

func javascriptScan() func() {
	runtime := goja.New()
	_, err := runtime.RunString(javascript)
	must(err)
	scan, _ := goja.AssertFunction(runtime.Get("scan"))
	return func() {
		_, err := scan(goja.Undefined())
		must(err)
	}
}

func starlarkScan() func() {
	thread := &starlark.Thread{}
	globals, err := starlark.ExecFile(thread, "scan", starlarkText, nil)
	must(err)
	state := starlark.NewDict(32)
	for _, n := range names {
		must(state.SetKey(starlark.String(n), starlark.Bool(n == "on" || n == "off")))
	}
	must(state.SetKey(starlark.String("total"), starlark.MakeInt(0)))
	must(state.SetKey(starlark.String("bed_temp"), starlark.MakeInt(215)))
	return func() {
		_, err := starlark.Call(thread, globals["scan"], starlark.Tuple{state}, nil)
		must(err)
	}
}

func exprScan() func() {
	state := map[string]any{"bed_temp": 215}
	for _, n := range names {
		state[n] = n == "on" || n == "off"
	}
	var programs []*vm.Program
	for _, e := range exprTexts {
		p, err := expr.Compile(e.text, expr.Env(state))
		must(err)
		programs = append(programs, p)
	}
	machine := vm.VM{}
	return func() {
		for i, p := range programs {
			v, err := machine.Run(p, state)
			must(err)
			state[exprTexts[i].target] = v
		}
	}
}
