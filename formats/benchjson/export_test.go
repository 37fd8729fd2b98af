package benchjson

// The two ways of a patch, for TestKeystroke.
var (
	Keystroke = keystroke
	Patched   = patched
)
