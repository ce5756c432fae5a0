// Package marks reads the comment lines that make parts of a source file
// optional, alternative, repeated, or its own alone.
//
//	// ironcast: only when storage == "mariadb"
//	store := openMariaDB(cfg)
//	// ironcast: otherwise
//	//| store := openMemory()
//	// ironcast: end
//
// A mark is one of
//
//	only when EXPR
//	otherwise when EXPR
//	otherwise
//	repeat NAME in LIST standing for "TEXT"
//	source only
//	end
//
// and stands in a comment of the file's type, alone on its line; only when,
// repeat and source only may also end a line of code, and then rule that line
// alone. Blocks nest. In a block, a line that the source must not run is held:
// its comment begins with "|" at once, and the comment's signs are taken off
// when the line is cast.
//
// Parse gives a file's text as a tree of nodes, each with its place. It knows
// nothing of variables: expressions are texts to it.
package marks

// Node is a Text, a *Choice, a *Repeat or a *SourceOnly.
type Node interface{ node() }

// Text is content[Start:End], which is cast as it is, less what holds a line.
type Text struct {
	Start, End int
	Held       bool // whether it is what a held line holds
}

// Choice casts the first of its branches whose condition holds.
type Choice struct {
	Branches []Branch
	Start    int // of the first mark's line
	End      int // behind the last mark's line
}

// Branch is one part of a choice.
type Branch struct {
	When   string // the expression; "" for what is cast otherwise
	Line   int    // of its mark, from 1
	Offset int    // of the expression in the content
	Body   []Node
}

// Repeat casts its body once for each item of a list.
type Repeat struct {
	Item, List  string
	StandingFor string
	Line        int
	Offset      int // of what follows the word repeat
	Body        []Node
	Start, End  int
}

// SourceOnly is never cast.
type SourceOnly struct {
	Line       int
	Start, End int
}

func (Text) node()        {}
func (*Choice) node()     {}
func (*Repeat) node()     {}
func (*SourceOnly) node() {}
