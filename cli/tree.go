package cli

import (
	"strings"

	"ironcast/core/tree"
)

// node is a folder or a leaf while a tree is drawn.
type node struct {
	name     string
	entry    *tree.Entry // nil for a folder with contents
	children []*node
}

// printTree draws a project as folders and files.
func printTree(p *printer, t tree.Tree) {
	root := &node{}
	entries := t.Entries()
	for i := range entries {
		root.add(strings.Split(entries[i].Path, "/"), &entries[i])
	}
	root.print(p, "")
}

func (n *node) add(parts []string, e *tree.Entry) {
	if len(parts) == 0 {
		n.entry = e
		return
	}
	if last := len(n.children) - 1; last < 0 || n.children[last].name != parts[0] {
		n.children = append(n.children, &node{name: parts[0]})
	}
	n.children[len(n.children)-1].add(parts[1:], e)
}

func (n *node) print(p *printer, indent string) {
	for i, child := range n.children {
		branch, further := "├── ", "│   "
		if i == len(n.children)-1 {
			branch, further = "└── ", "    "
		}
		p.line("%s%s", p.faint.Render(indent+branch), child.label(p))
		child.print(p, indent+further)
	}
}

func (n *node) label(p *printer) string {
	switch {
	case n.entry == nil:
		return p.strong.Render(n.name + "/")
	case n.entry.Kind == tree.Folder:
		return p.strong.Render(n.name+"/") + p.faint.Render("  empty")
	case n.entry.Kind == tree.Link:
		return n.name + p.faint.Render(" → "+n.entry.Target)
	case n.entry.Executable:
		return p.good.Render(n.name)
	}
	return n.name
}
