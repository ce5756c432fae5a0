package manifest

import (
	"strings"
	"testing"
)

// What is wrong in an expression is reported where it stands.
func TestExpressionsAreCheckedWhereTheyStand(t *testing.T) {
	variables := "variables:\n  service: { kind: name }\n  port: { kind: integer, default: 1 }\n  pin: { kind: secret }\n  regions: { kind: list, of: name, default: [] }\n"
	for _, c := range []struct{ text, want string }{
		{"checks: [{ that: prot > 1, message: a }]\n", "ironcast.yaml:10:18: that: the expression \"prot > 1\" uses prot, which is no variable; did you mean port?"},
		{"checks: [{ that: \"port + stroage\", message: a }]\n", "ironcast.yaml:10:26: that: "},
		{"checks: [{ that: port, message: a }]\n", "gives a whole number; it must give true or false"},
		{"checks: [{ that: 'true', message: 'Port ${prot}' }]\n", "ironcast.yaml:10:43: message: "},
		{"checks: [{ that: 'true', message: '${pin}' }]\n", "message would show pin, which is a secret"},
		{"  a: { value: pin }\n", "value of a would show pin, which is a secret"},
		{"  a: { kind: integer, default: '${service}' }\n", "default of a: the expression \"service\" gives a name; it must give a whole number"},
		{"  a: { kind: integer, value: port + 0.5 }\n", "no matching overload"},
		{"  a: { kind: text, default: '${b}' }\n  b: { kind: text, default: '${c}' }\n  c: { kind: text, default: '${a}' }\n", "the variables need each other in a circle: a needs b needs c needs a"},
		{"  a: { kind: text, default: '${a}' }\n", "a needs a"},
		{"  a: { kind: text, value: service.kebab, default: x }\n", "is computed and never asked for; leave default out"},
		{"  a: { kind: name, ask_when: port > 1 }\n", "it needs a default"},
		{"  a: { kind: text, check: 'true' }\n", "check needs a message"},
		{"  today: { kind: text }\n", `"today" has a meaning in expressions`},
		{"  a: { kind: secret, default: b }\n", "would be published with the template"},
		{"  a: { kind: list, of: text, stands_for: b }\n", "a list stands for no text"},
		{"  a: { kind: list, of: text, default: [b, b] }\n", `item 2: "b" stands in it twice`},
		{"  a: { kind: list, of: integer, minimum: 3, default: [2] }\n", "item 1: 2 is below the minimum of 3"},
		{"  a: { kind: choices, options: [x, y], default: [z] }\n", `"z" is no option; choose from x, y`},
		{"  a: { kind: package, stands_for: 9.b }\n", "is no package"},
		{"  a: { kind: text, format: colour }\n", `format "colour" is not known`},
		{"  a: { kind: text, format: email, default: nobody }\n", `"nobody" is no email as JSON Schema has it`},
		{"  a: { kind: number, default: 1.5.2 }\n", "is no number"},
		{"presets: { small: { prot: 1 } }\n", "there is no variable \"prot\"; did you mean \"port\"?"},
		{"presets: { small: { pin: hunter22 } }\n", "gives the secret pin, which would be published"},
		{"files: { repeat: [{ paths: [a], each: r in port, standing_for: b }] }\n", "port is of kind integer; repeat goes over a list"},
		{"files: { repeat: [{ paths: [a], each: port in regions, standing_for: b }] }\n", "port is a variable already"},
		{"files: { repeat: [{ paths: [a], each: r in regions, standing_for: '9' }] }\n", "the items of regions cannot stand for it"},
		{"files: { swap: [{ path: a, with: b, when: 'true' }] }\n", "it must lie below .ironcast"},
		{"hooks: { before_cast: [{ run: [go] }] }\n", "before_cast takes scripts alone"},
		{"hooks: { after_cast: [{}] }\n", "a hook has either a script or a command"},
		{"hooks: { after_cast: [{ script: .ironcast/a, timeout: 3 }] }\n", "timeout goes with a command"},
		{"hooks: { after_cast: [{ run: [] }] }\n", "run names no program"},
		{"hooks: { after_cast: [" + strings.Repeat("{ run: [a] }, ", 21) + "] }\n", "has 21 hooks; it may have 20 at most"},
		{"samples: [" + strings.Repeat("{ name: a }, ", 51) + "]\n", "has 51 samples; it may have 50 at most"},
		{"samples: [{ name: a, preset: b }]\n", "there is no preset \"b\""},
		{"samples: [{ name: a }, { name: a }]\n", "two samples have the name \"a\""},
		{"accept_traces: [{ text: a }]\n", "needs the key \"reason\""},
	} {
		_, err := Parse([]byte(head + variables + c.text))
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s gives %v; want %q", c.text, err, c.want)
		}
	}
}
