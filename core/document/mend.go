package document

// Clear takes one setting away.
func (a *Attrs) Clear(set AttrSet) {
	switch set {
	case hasPath:
		a.Path = ""
	case hasMissing:
		a.Missing = ""
	case hasFallback:
		a.Fallback = ""
	case hasAs:
		a.As = ""
	case hasLabel:
		a.Label = ""
	case hasNot:
		a.Not = false
	case hasOp:
		a.Op = ""
	case hasLiterals:
		a.Literals = nil
	case hasName:
		a.Name = ""
	case hasKind:
		a.Kind = ""
	case hasOptional:
		a.Optional = false
	case hasHint:
		a.Hint = ""
	case hasDefault:
		a.Default = ""
	case hasChoices:
		a.Choices = nil
	case hasCode:
		a.Code = ""
	case hasPlace:
		a.Place = ""
	case HasLevel:
		a.Level = 0
	case HasAlign:
		a.Align = ""
	case HasStart:
		a.Start = 0
	case hasHref:
		a.Href = ""
	case hasSrc:
		a.Src = ""
	case hasAlt:
		a.Alt = ""
	case HasWidth:
		a.Width = 0
	case HasHeight:
		a.Height = 0
	case HasColor:
		a.Color = ""
	case HasColspan:
		a.Colspan = 0
	case HasRowspan:
		a.Rowspan = 0
	case hasColwidth:
		a.Colwidth = nil
	case hasGaps:
		a.Gaps = nil
	}
}
