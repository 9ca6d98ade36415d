module celandine/bench

go 1.26.0

require (
	celandine v0.0.0
	github.com/dop251/goja v0.0.0-20260917113740-793a2a65c13b
	github.com/expr-lang/expr v1.17.8
	github.com/tetratelabs/wazero v1.12.0
	github.com/yuin/gopher-lua v1.1.2
	go.starlark.net v0.0.0-20260908191801-89a6a09411d5
)

require (
	github.com/dlclark/regexp2/v2 v2.5.2 // indirect
	github.com/go-sourcemap/sourcemap v2.1.3+incompatible // indirect
	github.com/google/pprof v0.0.0-20230207041349-798e818bf904 // indirect
	go.yaml.in/yaml/v3 v3.0.6 // indirect
	golang.org/x/sys v0.49.0 // indirect
	golang.org/x/text v0.43.0 // indirect
)

replace celandine => ../
