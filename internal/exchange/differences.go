package exchange

import (
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"strings"

	"readyrail/internal/core/project"
)

// DifferencesTitle names the two versions that a list is of.
type DifferencesTitle struct{ Project, Before, After string }

// WriteDifferences writes what differs as lines: +, ~ or - before each thing that is new,
// changed or gone, and its fields below.
func WriteDifferences(w io.Writer, list []project.Difference) error {
	var b strings.Builder
	for _, d := range list {
		fmt.Fprintf(&b, "%s %s %s", sign(d), d.Kind, d.Name)
		if d.Was != "" {
			fmt.Fprintf(&b, " (was %s)", d.Was)
		}
		b.WriteByte('\n')
		for _, f := range d.Fields {
			if d.Made || d.Gone {
				break // all of it is new, or gone
			}
			fmt.Fprintf(&b, "    %s: %s -> %s\n", strings.TrimPrefix(f.Path, "/"), plain(f.Before), plain(f.After))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

func sign(d project.Difference) string {
	switch {
	case d.Made:
		return "+"
	case d.Gone:
		return "-"
	}
	return "~"
}

// plain is a value as it reads: a text without quotes, nothing as a dash.
func plain(v json.RawMessage) string {
	if len(v) == 0 {
		return "-"
	}
	var text string
	if json.Unmarshal(v, &text) == nil {
		return strings.ReplaceAll(text, "\n", " / ")
	}
	return string(v)
}

// WriteDifferencesPage writes what differs as one HTML page, which needs nothing else.
func WriteDifferencesPage(w io.Writer, of DifferencesTitle, list []project.Difference) error {
	return differencesPage.Execute(w, struct {
		Of   DifferencesTitle
		List []project.Difference
	}{of, list})
}

var differencesPage = template.Must(template.New("differences").Funcs(template.FuncMap{"sign": sign, "plain": plain,
	"place": func(path string) string { return strings.ReplaceAll(strings.TrimPrefix(path, "/"), "/", " › ") }}).Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>{{.Of.Project}}: {{.Of.Before}} – {{.Of.After}}</title>
<style>
body { font: 15px/1.45 sans-serif; max-width: 1000px; margin: 32px auto; padding: 0 16px; color: #22303a; }
h1 { font-size: 22px; } section { border-top: 1px solid #ccc6ba; padding: 8px 0; break-inside: avoid; }
h2 { font-size: 15px; margin: 0; } h2 b { display: inline-block; width: 1.2em; } h2 span { color: #5d6a70; font-weight: 400; }
table { border-collapse: collapse; margin: 6px 0 6px 1.2em; } td, th { padding: 2px 12px 2px 0; text-align: left; vertical-align: top; }
th { color: #5d6a70; font-weight: 400; } td { overflow-wrap: anywhere; } td + td { font-family: monospace; }
</style></head><body>
<h1>{{.Of.Project}}: from {{.Of.Before}} to {{.Of.After}}</h1>
<p>{{len .List}} things differ.</p>
{{range .List}}<section><h2><b>{{sign .}}</b> {{.Name}} <span>{{.Kind}}{{if .Was}}, was {{.Was}}{{end}}</span></h2>
{{if not (or .Made .Gone)}}<table><tr><th>Field</th><th>Before</th><th>After</th></tr>
{{range .Fields}}<tr><td>{{place .Path}}</td><td>{{plain .Before}}</td><td>{{plain .After}}</td></tr>
{{end}}</table>{{end}}</section>
{{end}}</body></html>
`))
