package figure

import (
	"fmt"
	"slices"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
)

// Layout lays out an instrument showing y on a surface of a width. y is on its scale.
type Layout func(in *instrument.Instrument, y length.Number, width float64) Drawing

// Layouts says how the instruments of each family are drawn.
var Layouts = map[instrument.Family]Layout{
	instrument.VernierCaliper: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newStraight(in, y, width, 0)
	},
	instrument.GearTooth: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newPair(in,
			y, width)
	},
	instrument.DialCaliper: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newDial(in, y, beside(width))
	},
	instrument.Micrometer:       screw(outsideFrame),
	instrument.DepthMicrometer:  screw(depthBase),
	instrument.InsideMicrometer: screw(insideRod),
	instrument.HeightGauge: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		switch in.Kind() {
		case instrument.Dial:
			return newDial(in, y, beside(width))
		case instrument.Display:
			return newReadout(in, y, width)
		}
		return newUpright(in, y, width)
	},
	instrument.DepthGauge: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newBare(in, y, width, depthBridge)
	},
	instrument.TravellingMicroscope: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newBare(in, y, width, eyepiece)
	},
	instrument.Spherometer: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		d := newDisc(in, y, width)
		d.frame = threeLegs
		return d
	},
	instrument.DialIndicator:     roundFace,
	instrument.BalancedIndicator: roundFace,
	instrument.Protractor:        bentScale,
	instrument.AngleCircle:       bentScale,
	instrument.Digital: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newReadout(in, y, width)
	},
	instrument.Rule: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newRuler(in, y, width, false)
	},
	instrument.Pointer: func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		return newRuler(in, y, width, true)
	},
}

func roundFace(in *instrument.Instrument, y length.Number, width float64) Drawing {
	return newIndicator(in, y, beside(width))
}

func bentScale(in *instrument.Instrument, y length.Number, width float64) Drawing {
	return newArc(in, y, width)
}

// screw lays out a sleeve and a thimble; frame draws the whole instrument small, opened by a share of its range.
func screw(frame func(share float64) []Item) Layout {
	return func(in *instrument.Instrument, y length.Number, width float64) Drawing {
		d := newDrum(in, y, beside(width))
		d.frame = frame
		return d
	}
}

// Of lays out the figure of a card on a surface of the given width, as Lay does, with the scale beside it set.
func Of(f exercise.Figure, width float64) (Drawing, error) {
	d, err := Lay(f.Instrument, f.At, width)
	if i, ok := d.(*indicator); ok && f.Limits != nil {
		i.limits = slices.DeleteFunc([]length.Number{f.Limits.Lower, f.Limits.Upper}, func(limit length.Number) bool {
			_, err := f.Instrument.Read(limit)
			return err != nil // off the face
		})
	}
	if p, ok := d.(Settable); ok && f.Upright != nil {
		err = p.Set(*f.Upright)
	}
	return d, err
}

// Lay lays out the instrument showing y on a surface of the given width, Wide, Narrow or Stage. It fails with
// the core's error when the instrument cannot show y, and when its family has no drawing.
func Lay(in *instrument.Instrument, y length.Number, width float64) (Drawing, error) {
	if _, err := in.Read(y); err != nil {
		return nil, err
	}
	lay, known := Layouts[in.Spec().Family]
	if !known {
		return nil, fmt.Errorf("a %s has no drawing", in.Spec().Family)
	}
	return lay(in, y, width), nil
}
