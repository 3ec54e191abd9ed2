package store

import "strings"

// clauses are the conditions of a query, with what stands for their marks.
type clauses struct {
	where []string
	args  []any
}

func (c *clauses) and(clause string, args ...any) {
	c.where = append(c.where, clause)
	c.args = append(c.args, args...)
}

// in asks that a column is one of some, where there are any.
func in[T any](c *clauses, column string, list []T) {
	if len(list) == 0 {
		return
	}
	args := make([]any, len(list))
	for i, v := range list {
		args[i] = v
	}
	c.and(column+" IN ("+strings.TrimSuffix(strings.Repeat("?,", len(list)), ",")+")", args...)
}

var plainly = strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`)

// has asks that a text is in one of some columns, where there is a text.
func (c *clauses) has(text string, columns ...string) {
	if text == "" {
		return
	}
	any := make([]string, len(columns))
	for i, column := range columns {
		any[i] = column + ` LIKE ? ESCAPE '\'`
		c.args = append(c.args, "%"+plainly.Replace(text)+"%")
	}
	c.where = append(c.where, "("+strings.Join(any, " OR ")+")")
}

// like asks that a column is like a pattern, in which * stands for anything.
func (c *clauses) like(column, pattern string) {
	if pattern != "" {
		c.and(column+` LIKE ? ESCAPE '\'`, strings.ReplaceAll(plainly.Replace(pattern), "*", "%"))
	}
}

func (c *clauses) String() string { return strings.Join(c.where, " AND ") }
