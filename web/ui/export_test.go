package ui

// MakeAll makes every page now, which is otherwise done when it is first asked for.
func (s *Site) MakeAll() (made int, err error) {
	for _, page := range s.pages {
		if _, err := page.parsed(); err != nil {
			return made, err
		}
		made++
	}
	return made, nil
}
