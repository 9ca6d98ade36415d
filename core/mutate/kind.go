package mutate

// A Kind is a kind of mistake.
type Kind string

// The kinds of mistake.
const (
	ContactInverted  Kind = "contact-inverted"
	ContactOut       Kind = "contact-left-out"
	BranchOut        Kind = "branch-left-out"
	BranchAround     Kind = "branch-around-too-much"
	SeriesParallel   Kind = "series-for-parallel"
	OtherInput       Kind = "another-input"
	OtherOutput      Kind = "another-output"
	OtherVariable    Kind = "another-variable"
	EdgeOut          Kind = "edge-left-out"
	EdgeOther        Kind = "the-other-edge"
	EdgeMemory       Kind = "edge-memory-shared"
	CoilInverted     Kind = "coil-inverted"
	CoilOut          Kind = "coil-left-out"
	SetOut           Kind = "set-left-out"
	ResetOut         Kind = "reset-left-out"
	SetForPlain      Kind = "set-or-reset-for-plain"
	Dominance        Kind = "the-other-one-wins"
	Order            Kind = "order-exchanged"
	RungOut          Kind = "rung-left-out"
	OtherTimer       Kind = "another-timer"
	PresetScale      Kind = "preset-ten-times-off"
	PresetScan       Kind = "preset-a-little-off"
	OtherCounter     Kind = "another-counter"
	CountOff         Kind = "number-one-off"
	NumberScale      Kind = "number-ten-times-off"
	EveryNumber      Kind = "every-number-ten-times-off"
	InputOpen        Kind = "input-not-connected"
	OutputOpen       Kind = "output-not-connected"
	InputsCrossed    Kind = "inputs-exchanged"
	InstanceShared   Kind = "instance-shared"
	CallConditional  Kind = "called-only-sometimes"
	CallOut          Kind = "call-left-out"
	OtherFunction    Kind = "another-function"
	Comparison       Kind = "comparison-off"
	Operator         Kind = "another-operator"
	Inverted         Kind = "value-inverted"
	OperandOut       Kind = "condition-left-out"
	IfForElsif       Kind = "if-for-elsif"
	BranchOfIf       Kind = "arm-left-out"
	ElseOut          Kind = "else-left-out"
	StatementOut     Kind = "statement-left-out"
	LoopOff          Kind = "loop-one-off"
	InputInverted    Kind = "input-inverted-throughout"
	InputsExchanged  Kind = "inputs-taken-for-one-another"
	OutputsExchanged Kind = "outputs-taken-for-one-another"
	DoneAsEqual      Kind = "done-read-as-equal"
	InputForOutput   Kind = "input-for-output"
	RetainOut        Kind = "retain-left-out"
	InitialOut       Kind = "first-value-left-out"
)

// about says a kind as a heading, and what one who made such a mistake may look at.
type about struct {
	kind        Kind
	words, hint string
}

// kinds stand in the order in which, of several mistakes that behave alike, one is named.
var kinds = []about{
	{ContactInverted, "contact inverted",
		"Look at what each contact does while its device is at rest, and while it is worked: a button wired normally closed shows TRUE at rest."},
	{ContactOut, "contact left out", "Look whether every condition of the brief has its contact."},
	{BranchOut, "branch left out", "Look at what keeps the output on after the button is let go, and at each other way to it."},
	{BranchAround, "branch around too much",
		"Look at what stands beside the branch and what behind it: what must always stop the power belongs behind."},
	{SeriesParallel, "series for parallel",
		"In series all must be closed; in parallel one is enough. Look which of them the brief asks for."},
	{EdgeOut, "edge left out", "Hold the button for a second and look what happens in each scan: should it happen again and again?"},
	{EdgeOther, "the other edge", "Does it happen when the signal comes, or when it goes?"},
	{EdgeMemory, "one memory for two edges", "Each edge needs a memory of its own."},
	{CoilInverted, "coil inverted", "Look at the output while nothing is pressed."},
	{CoilOut, "coil left out", "Look whether every output is written."},
	{SetOut, "set left out", "Look at what switches it on."},
	{ResetOut, "reset left out", "Look at what switches it off again."},
	{SetForPlain, "set or reset for a plain coil", "A plain coil follows the power; a set coil keeps what it got. Which is asked for?"},
	{Dominance, "the other one wins", "Press both at once: which should win?"},
	{Order, "order exchanged", "What a rung reads is what the rungs above have written in this scan. Look at their order."},
	{RungOut, "rung left out", "Look whether everything that the brief asks for is there."},
	{OtherTimer, "another kind of timer",
		"When does the time begin: when the input comes, or when it goes? And what if it goes too early?"},
	{PresetScale, "preset ten times off", "Look at the unit of the time: seconds, or milliseconds?"},
	{PresetScan, "preset a little off", "Look at the exact time that the brief asks for."},
	{OtherCounter, "another kind of counter", "Does it count up or down, and from where?"},
	{CountOff, "number one off", "Count with the program by hand: is the last one counted, is the limit itself inside or outside?"},
	{NumberScale, "number ten times off", "Look at the unit of the number."},
	{EveryNumber, "every number ten times off", "Look at the unit of the numbers, such as tenths of a degree."},
	{InputOpen, "input not connected", "Look whether every input of the block has its value."},
	{OutputOpen, "output not connected", "Look whether every output of the block goes where it should."},
	{InputsCrossed, "inputs exchanged", "Look which signal goes to which input of the block."},
	{InstanceShared, "one instance used twice", "Each thing that is timed, counted or remembered needs an instance of its own."},
	{CallConditional, "block called only sometimes",
		"A block does nothing in a scan in which it is not called: it does not see that its input went away."},
	{CallOut, "call left out", "A block that is not called does nothing."},
	{OtherFunction, "another function", "Look at what the function does with its inputs."},
	{Comparison, "comparison off", "Look at the limit itself: is it inside or outside?"},
	{Operator, "another operator", "With AND all must hold, with OR one is enough. Look which of them the brief asks for."},
	{Inverted, "value inverted", "Look at what each signal shows while its device is at rest."},
	{OperandOut, "condition left out", "Look whether every condition of the brief is there."},
	{IfForElsif, "IF for ELSIF", "Two IFs are both looked at; of IF and ELSIF only the first that holds. May both happen here?"},
	{BranchOfIf, "case left out", "Look whether each case is there."},
	{ElseOut, "ELSE left out", "Without ELSE a value stays what it was."},
	{StatementOut, "statement left out", "Look whether everything that the brief asks for is there."},
	{LoopOff, "loop one off", "Look at the first and the last turn of the loop."},
	{InputInverted, "input inverted throughout",
		"Look at what the input shows at rest: how the device is wired decides that, not what it is called."},
	{InputsExchanged, "two inputs exchanged", "Look at the wiring list: which device is on which address?"},
	{OutputsExchanged, "two outputs exchanged", "Look at the wiring list: which output is on which address?"},
	{DoneAsEqual, "done read as equal", "Count one more than the preset: is it still done?"},
	{InputForOutput, "a block's input for its output", "Look at what you read behind the block: what goes in, or what comes out?"},
	{OtherInput, "another input", "Look at the wiring list: which device is it that counts here?"},
	{OtherOutput, "another output", "Look at the wiring list: which output is meant here?"},
	{OtherVariable, "another variable", "Look at each name again: is it the variable that you mean?"},
	{RetainOut, "RETAIN left out", "What must survive a loss of supply is declared RETAIN."},
	{InitialOut, "first value left out", "Look at the value in the first scan."},
}

// Kinds lists all kinds.
func Kinds() []Kind {
	list := make([]Kind, len(kinds))
	for i, k := range kinds {
		list[i] = k.kind
	}
	return list
}

// Words says a kind as a heading: "contact inverted".
func (k Kind) Words() string { return k.about().words }

// Hint is what one who made such a mistake may look at.
func (k Kind) Hint() string { return k.about().hint }

func (k Kind) about() about {
	for _, a := range kinds {
		if a.kind == k {
			return a
		}
	}
	return about{k, string(k), ""}
}

// IsFigure reports a kind that is a wrong time or number.
func (k Kind) IsFigure() bool {
	switch k {
	case PresetScale, PresetScan, CountOff, NumberScale:
		return true
	}
	return false
}
