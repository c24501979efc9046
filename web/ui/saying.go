package ui

import (
	"html/template"
	"text/template/parse"
)

// sayAll makes templates print what they show: "say" comes last in each pipeline that is printed. So templates name
// texts, numbers and moments like strings.
func sayAll(t *template.Template) {
	for _, t := range t.Templates() {
		if t.Tree != nil {
			sayIn(t.Tree.Root)
		}
	}
}

func sayIn(n parse.Node) {
	switch n := n.(type) {
	case *parse.ListNode:
		if n != nil {
			for _, n := range n.Nodes {
				sayIn(n)
			}
		}
	case *parse.ActionNode:
		if len(n.Pipe.Decl) == 0 {
			sayLast(n.Pipe)
		}
	case *parse.IfNode:
		sayBranches(n.BranchNode)
	case *parse.WithNode:
		sayBranches(n.BranchNode)
	case *parse.RangeNode:
		sayBranches(n.BranchNode)
	}
}

func sayBranches(n parse.BranchNode) {
	sayIn(n.List)
	sayIn(n.ElseList)
}

// plain are the functions whose results are no texts.
var plain = map[string]bool{"t": true, "rich": true, "len": true, "printf": true, "asset": true, "lang": true,
	"partial": true}

// plainFields are fields of views that hold no texts, and stand in every cell and link.
var plainFields = map[string]bool{"Href": true, "Class": true, "ID": true, "Action": true, "Sign": true}

// sayLast makes "say" the last command of a pipeline, unless what it gives is no text.
func sayLast(p *parse.PipeNode) {
	if field, ok := p.Cmds[len(p.Cmds)-1].Args[0].(*parse.FieldNode); ok &&
		plainFields[field.Ident[len(field.Ident)-1]] {
		return
	}
	if name, ok := p.Cmds[len(p.Cmds)-1].Args[0].(*parse.IdentifierNode); !ok || !plain[name.Ident] {
		p.Cmds = append(p.Cmds, &parse.CommandNode{NodeType: parse.NodeCommand, Pos: p.Pos,
			Args: []parse.Node{parse.NewIdentifier("say").SetPos(p.Pos)}})
	}
}
