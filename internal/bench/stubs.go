package bench

func formulas() ([]Figure, error) { return nil, nil }
func engines() ([]Figure, error)  { return nil, nil }
func edits() ([]Figure, error)    { return nil, nil }
func polls() ([]Figure, error)    { return nil, nil }
func scenes() ([]Figure, error)   { return nil, nil }
