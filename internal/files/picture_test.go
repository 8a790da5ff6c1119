package files

import (
	"bytes"
	"encoding/binary"
	"errors"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"

	"lucidletter/internal/domain"
)

func picture(w, h int) *image.NRGBA {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.Set(x, y, color.NRGBA{uint8(x), uint8(y), 90, 255})
		}
	}
	return img
}

func encoded(t *testing.T, encode func(*bytes.Buffer) error) []byte {
	t.Helper()
	var buf bytes.Buffer
	if err := encode(&buf); err != nil {
		t.Fatal(err)
	}
	return buf.Bytes()
}

// withExif puts an Exif segment (TIFF 6.0 section 2, Exif 2.3 tag 0x0112) with an orientation and a maker's
// name into a JPEG.
func withExif(raw []byte, orientation uint16) []byte {
	tiff := append([]byte("II*\x00\x08\x00\x00\x00\x01\x00"), 0x12, 0x01, 3, 0, 1, 0, 0, 0)
	tiff = binary.LittleEndian.AppendUint16(tiff, orientation)
	tiff = append(tiff, 0, 0, 0, 0, 0, 0)
	body := append([]byte("Exif\x00\x00"), tiff...)
	body = append(body, "SECRET-PLACE"...)
	seg := binary.BigEndian.AppendUint16([]byte{0xff, 0xe1}, uint16(len(body)+2))
	return append(append(append([]byte{}, raw[:2]...), append(seg, body...)...), raw[2:]...)
}

func TestReadPicture(t *testing.T) {
	big := encoded(t, func(b *bytes.Buffer) error { return png.Encode(b, picture(2400, 600)) })
	photo := withExif(encoded(t, func(b *bytes.Buffer) error { return jpeg.Encode(b, picture(80, 40), nil) }), 6)
	pal := color.Palette{color.White, color.Black}
	moving := encoded(t, func(b *bytes.Buffer) error {
		frame := image.NewPaletted(image.Rect(0, 0, 9, 9), pal)
		return gif.EncodeAll(b, &gif.GIF{Image: []*image.Paletted{frame, frame}, Delay: []int{5, 5}})
	})
	still := encoded(t, func(b *bytes.Buffer) error { return gif.Encode(b, picture(9, 7), nil) })
	for _, row := range []struct {
		name string
		raw  []byte
		kind string
		w, h int
	}{
		{"a wide one is made smaller", big, "image/png", 1200, 300},
		{"a photograph is turned", photo, "image/jpeg", 40, 80},
		{"a moving one stays", moving, "image/gif", 9, 9},
		{"a still GIF is a PNG", still, "image/png", 9, 7},
	} {
		kind, out, err := ReadPicture(row.raw)
		if err != nil || kind != row.kind {
			t.Errorf("%s: %s, %v", row.name, kind, err)
			continue
		}
		c, _, err := image.DecodeConfig(bytes.NewReader(out))
		if err != nil || c.Width != row.w || c.Height != row.h {
			t.Errorf("%s: %d × %d, %v", row.name, c.Width, c.Height, err)
		}
		if bytes.Contains(out, []byte("SECRET-PLACE")) {
			t.Errorf("%s: what the camera wrote is still there", row.name)
		}
	}
	if _, out, _ := ReadPicture(moving); !bytes.Equal(out, moving) {
		t.Error("a moving picture was changed")
	}
	bomb := append([]byte{}, encoded(t, func(b *bytes.Buffer) error { return png.Encode(b, picture(2, 2)) })...)
	binary.BigEndian.PutUint32(bomb[16:], 60000)
	binary.BigEndian.PutUint32(bomb[20:], 60000)
	// What it would take to read them is asked before: a moving one has pixels in every
	// frame, of which the file may hold next to nothing.
	frame := image.NewPaletted(image.Rect(0, 0, 3000, 3000), pal)
	frames := encoded(t, func(b *bytes.Buffer) error {
		return gif.EncodeAll(b, &gif.GIF{Image: []*image.Paletted{frame, frame}, Delay: []int{5, 5}})
	})
	for name, raw := range map[string][]byte{
		"too many pixels in frames": frames, "a moving one that is cut": moving[:len(moving)-4],
		"nothing": nil, "text": []byte("hello"), "a script": []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`),
		"a cut one": big[:200], "HTML with a name of a picture": []byte("<html>GIF89a"), "too many pixels": bomb, "too large": make([]byte, MaxPicture+1),
	} {
		var bad *domain.InvalidError
		if _, _, err := ReadPicture(raw); !errors.As(err, &bad) || !strings.HasPrefix(err.Error(), "file: ") {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// A photograph is seen the way it was taken, whichever way the camera was held: of the
// eight orientations (Exif 2.3, tag 0x0112) what is at the upper left, and to the right of
// it, in the picture that was stored.
func TestReadPicture_orientations(t *testing.T) {
	const w, h = 48, 32
	// Quarters of four greys: upper left, upper right, lower left, lower right.
	quarters := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			v := uint8(20)
			if x >= w/2 {
				v += 60
			}
			if y >= h/2 {
				v += 120
			}
			quarters.Set(x, y, color.NRGBA{v, v, v, 255})
		}
	}
	raw := encoded(t, func(b *bytes.Buffer) error { return jpeg.Encode(b, quarters, &jpeg.Options{Quality: 100}) })
	for orientation, want := range map[uint16][4]int{
		0: {20, 80, 140, 200}, 1: {20, 80, 140, 200}, 2: {80, 20, 200, 140}, 3: {200, 140, 80, 20}, 4: {140, 200, 20, 80},
		5: {20, 140, 80, 200}, 6: {140, 20, 200, 80}, 7: {200, 80, 140, 20}, 8: {80, 200, 20, 140}, 9: {20, 80, 140, 200},
	} {
		_, out, err := ReadPicture(withExif(raw, orientation))
		if err != nil {
			t.Fatal(err)
		}
		img, err := jpeg.Decode(bytes.NewReader(out))
		if err != nil {
			t.Fatal(err)
		}
		b := img.Bounds()
		for i, at := range []image.Point{{b.Dx() / 4, b.Dy() / 4}, {3 * b.Dx() / 4, b.Dy() / 4}, {b.Dx() / 4, 3 * b.Dy() / 4}, {3 * b.Dx() / 4, 3 * b.Dy() / 4}} {
			r, _, _, _ := img.At(at.X, at.Y).RGBA()
			if got := int(r >> 8); got < want[i]-12 || got > want[i]+12 {
				t.Errorf("orientation %d, quarter %d: %d, want %d", orientation, i, got, want[i])
			}
		}
	}
}
