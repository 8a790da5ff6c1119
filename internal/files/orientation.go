package files

import (
	"bytes"
	"image"

	"github.com/bep/imagemeta"
	"golang.org/x/image/draw"
)

// orientationOf gives how a photograph was taken: 1 to 8 (Exif 2.3, tag 0x0112
// Orientation); 1, upright, for one that does not say or says something else.
func orientationOf(raw []byte) int {
	found := 1
	_, err := imagemeta.Decode(imagemeta.Options{
		R: bytes.NewReader(raw), ImageFormat: imagemeta.JPEG, Sources: imagemeta.EXIF, Warnf: func(string, ...any) {},
		ShouldHandleTag: func(tag imagemeta.TagInfo) bool { return tag.Tag == "Orientation" },
		HandleTag: func(tag imagemeta.TagInfo) error {
			if n, ok := tag.Value.(uint16); ok && n >= 1 && n <= 8 {
				found = int(n)
			}
			return imagemeta.ErrStopWalking
		},
	})
	if err != nil {
		return 1 // its pixels may be all right
	}
	return found
}

// upright turns and mirrors a picture so that it is seen the way it was taken.
func upright(img *image.NRGBA, orientation int) *image.NRGBA {
	b := img.Bounds()
	right, bottom := b.Dx()-1, b.Dy()-1
	// Where a point of the result is in the picture.
	at := map[int]func(x, y int) (int, int){
		2: func(x, y int) (int, int) { return right - x, y },
		3: func(x, y int) (int, int) { return right - x, bottom - y },
		4: func(x, y int) (int, int) { return x, bottom - y },
		5: func(x, y int) (int, int) { return y, x },
		6: func(x, y int) (int, int) { return y, bottom - x },
		7: func(x, y int) (int, int) { return right - y, bottom - x },
		8: func(x, y int) (int, int) { return right - y, x },
	}[orientation]
	if at == nil {
		return img
	}
	w, h := b.Dx(), b.Dy()
	if orientation >= 5 {
		w, h = h, w
	}
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			fromX, fromY := at(x, y)
			out.SetNRGBA(x, y, img.NRGBAAt(b.Min.X+fromX, b.Min.Y+fromY))
		}
	}
	return out
}

// within gives a picture that is at most so many pixels wide and high. A much larger one
// is halved first, four pixels to one, since the scaler keeps 32 bytes for each of its
// lines at the width of the result.
func within(img image.Image, most int) *image.NRGBA {
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	if longest := max(w, h); longest > most {
		w, h = max(1, (w*most+longest/2)/longest), max(1, (h*most+longest/2)/longest)
	}
	for b.Dx() >= 4*w && b.Dy() >= 4*h {
		half := image.NewNRGBA(image.Rect(0, 0, b.Dx()/2, b.Dy()/2))
		draw.ApproxBiLinear.Scale(half, half.Bounds(), img, b, draw.Src, nil)
		img, b = half, half.Bounds()
	}
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	if w == b.Dx() && h == b.Dy() {
		draw.Draw(out, out.Bounds(), img, b.Min, draw.Src)
	} else {
		draw.CatmullRom.Scale(out, out.Bounds(), img, b, draw.Src, nil)
	}
	return out
}
