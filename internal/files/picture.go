package files

import (
	"bytes"
	"fmt"
	"image"
	"image/gif"

	"github.com/disintegration/imaging"
	_ "golang.org/x/image/webp" // the decoder

	"lucidletter/internal/app"
)

// Limits of pictures.
const (
	MaxPicture      = 12 << 20 // bytes of an upload
	MaxWidth        = 1200     // pixels of what is kept
	maxPixels       = 50_000_000
	maxMovingBytes  = 4 << 20
	pictureQuality  = 86
	pictureNotOne   = "is no picture of the kinds PNG, JPEG, GIF or WebP; save it as one of them"
	pictureTooLarge = "is larger than %d MiB; make it smaller"
)

// ReadPicture makes an uploaded picture ready for letters: at most 1200 pixels
// wide or high, turned the way it was taken, without what a camera writes beside
// it (place, owner). A moving GIF stays as it is. SVG is refused, since it can hold
// scripts. The result is PNG when the picture may be transparent, else JPEG, or GIF.
func ReadPicture(raw []byte) (kind string, out []byte, err error) {
	bad := func(why string, args ...any) error {
		return &app.InvalidError{Fields: []app.FieldError{{Where: "file", Why: fmt.Sprintf(why, args...)}}}
	}
	if len(raw) > MaxPicture {
		return "", nil, bad(pictureTooLarge, MaxPicture>>20)
	}
	config, format, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return "", nil, bad(pictureNotOne)
	}
	if config.Width*config.Height > maxPixels || config.Width == 0 || config.Height == 0 {
		return "", nil, bad("has %d × %d pixels; make it smaller", config.Width, config.Height)
	}
	if format == "gif" {
		all, err := gif.DecodeAll(bytes.NewReader(raw))
		if err != nil {
			return "", nil, bad(pictureNotOne)
		}
		if len(all.Image) > 1 {
			if len(raw) > maxMovingBytes {
				return "", nil, bad("moves and is larger than %d MiB; make it smaller", maxMovingBytes>>20)
			}
			return "image/gif", raw, nil
		}
	}
	img, err := imaging.Decode(bytes.NewReader(raw), imaging.AutoOrientation(true))
	if err != nil {
		return "", nil, bad(pictureNotOne)
	}
	if b := img.Bounds(); b.Dx() > MaxWidth || b.Dy() > MaxWidth {
		img = imaging.Fit(img, MaxWidth, MaxWidth, imaging.Lanczos)
	}
	var buf bytes.Buffer
	if format == "jpeg" {
		err = imaging.Encode(&buf, img, imaging.JPEG, imaging.JPEGQuality(pictureQuality))
		return "image/jpeg", buf.Bytes(), err
	}
	err = imaging.Encode(&buf, img, imaging.PNG)
	return "image/png", buf.Bytes(), err
}
