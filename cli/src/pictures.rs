//! From drawings to pixels.

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};

/// The pixels of a drawing; its letters come along, whatever fonts the machine has.
pub(crate) fn png(svg: &str) -> Result<Vec<u8>, String> {
    let mut options = Options::default();
    let fonts = options.fontdb_mut();
    fonts.load_font_data(dejavu::sans_mono::regular().to_vec());
    fonts.load_font_data(dejavu::sans_mono::bold().to_vec());
    let tree = Tree::from_str(svg, &options).map_err(|e| e.to_string())?;
    let size = tree.size().to_int_size();
    let mut pixels = Pixmap::new(size.width(), size.height()).ok_or("the drawing is too large for a picture")?;
    resvg::render(&tree, Transform::default(), &mut pixels.as_mut());
    pixels.encode_png().map_err(|e| e.to_string())
}
