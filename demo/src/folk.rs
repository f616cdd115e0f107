//! Who and what moves on the estate: pickers, carts and bees, each on a tile of 24 × 24 pixels,
//! standing on the middle of its lower edge.
//!
//! Figures this small are set pixel by pixel; a letter is a colour.

use sturdy_quilt::{Color, Picture};

use crate::canvas::{Canvas, rgb, shadow};

const SIDE: i32 = 24;

const PICKER_FRONT: [&str; 22] = [
    "......yyyy......",
    ".....yYYYYy.....",
    "...yyYYYYYYyy...",
    ".yyYYYYYYYYYYyy.",
    ".ooooooooooooo..",
    ".....ssssss.....",
    "....hskssksh....",
    ".....ssssss.....",
    ".....nsrrsn.....",
    "....wttttttw....",
    "...BttTttTttB...",
    "..BBtTTttTTtBB..",
    "..BstTTttTTtsB..",
    "..BstttttttrsB..",
    "..BsttttttttsB..",
    "...sqqqqqqqqs...",
    "....tttttttt....",
    "....pppppppp....",
    "....ppp..ppp....",
    "....ppp..ppp....",
    "....ddd..ddd....",
    "...dddd..dddd...",
];

const PICKER_BACK: [&str; 22] = [
    "......yyyy......",
    ".....yYYYYy.....",
    "...yyYYYYYYyy...",
    ".yyYYYYYYYYYYyy.",
    ".ooooooooooooo..",
    ".....hhhhhh.....",
    "....hhhhhhhh....",
    "....gGgGGgGg....",
    "...gGGgGGGgGg...",
    "...CCCCCCCCCC...",
    "..tBbBbBbBbBbt..",
    "..tbBbBbBbBbBt..",
    "..sBbBbBbBbBbs..",
    "..sbBbBbBbBbBs..",
    "..sBbBbBbBbBbs..",
    "...sbBbBbBbBs...",
    "....tbbbbbbt....",
    "....pppppppp....",
    "....ppp..ppp....",
    "....ppp..ppp....",
    "....ddd..ddd....",
    "....ddd..ddd....",
];

const PICKER_SIDE: [&str; 22] = [
    "......yyyy......",
    ".....yYYYYy.....",
    "...yyYYYYYYyy...",
    ".yyYYYYYYYYYYyy.",
    "..oooooooooooo..",
    ".....hhssss.....",
    ".....hhssks.....",
    ".gGg.hhsssss....",
    "gGGGg.nssrs.....",
    "CCCCCCwttt......",
    "bBbBbttttTt.....",
    "BbBbBtttTTTt....",
    "bBbBbttsTTTt....",
    "BbBbBttsstTt....",
    ".BbBbttttsst....",
    "..bBbqqqqqqs....",
    ".....tttttt.....",
    ".....pppppp.....",
    ".....ppp.ppp....",
    "....ppp...pp....",
    "....ddd...ddd...",
    "....dddd..dddd..",
];

const CART_SIDE: [&str; 19] = [
    "......gG..gGg...........",
    "...gGgGGggGGGgGg........",
    "..gGGGGgGGGgGGGGg.......",
    "..GgGGgGGGGGgGGgGg......",
    ".WWWWWWWWWWWWWWWWWW.....",
    ".wVvvVvvVvvVvvVvvVw...WW",
    ".wVvvVvvVvvVvvVvvVw.WWw.",
    ".wVvvVvvVvvVvvVvvVwWw...",
    ".wVvvVvvVvvVvvVvvVww....",
    ".wwwwwwwwwwwwwwwwwww....",
    "..xxxx........xxxx......",
    ".xWWWWx......xWWWWx.....",
    "xWx..xWx....xWx..xWx....",
    "xW.xx.Wx....xW.xx.Wx....",
    "xW.xx.Wx....xW.xx.Wx....",
    "xWx..xWx....xWx..xWx....",
    ".xWWWWx......xWWWWx.....",
    "..xxxx........xxxx......",
    "........................",
];

const CART_FRONT: [&str; 20] = [
    ".....gGgGGgGg...",
    "...gGGGgGGGGgG..",
    "...GgGGGGgGGGg..",
    "..WWWWWWWWWWWW..",
    "..wVvVvVvVvVvw..",
    "..wVvVvVvVvVvw..",
    "..wVvVvVvVvVvw..",
    "..wVvVvVvVvVvw..",
    "..wwwwwwwwwwww..",
    "xx.xxxxxxxxxx.xx",
    "xWx.W......W.xWx",
    "xWx.W......W.xWx",
    "xWx.W......W.xWx",
    "xWx..W....W..xWx",
    "xWx..W....W..xWx",
    "xWx...W..W...xWx",
    "xWx...W..W...xWx",
    "xx....WWWW....xx",
    "................",
    "................",
];

const BEE: [&str; 10] = [
    "..ii...ii...",
    ".iIIi.iIIi..",
    ".iIIi.iIIi..",
    "..iIIiIIi...",
    "...kllkllk..",
    "k.klLkLLklk.",
    ".kklLkLLkllk",
    "...kllkllkk.",
    "....k..k.k..",
    "............",
];

fn color(letter: u8) -> Option<Color> {
    Some(rgb(match letter {
        b'y' => 0xb9893a,
        b'Y' => 0xe8c572,
        b'o' => 0x6a4a24,
        b's' => 0xd8a272,
        b'n' => 0xb67f55,
        b'h' => 0x33241c,
        b'k' => 0x2a211c,
        b'r' => 0xa8503e,
        b't' => 0x2f5f8f,
        b'T' => 0x4a82b4,
        b'q' => 0xc9543f,
        b'w' => 0x70481f,
        b'W' => 0xc4935a,
        b'v' => 0x9a6c3c,
        b'V' => 0x815730,
        b'b' => 0x93693a,
        b'B' => 0xb98c50,
        b'C' => 0xd8b274,
        b'g' => 0x437f40,
        b'G' => 0x7db456,
        b'p' => 0x4c4a55,
        b'd' => 0x33291f,
        b'x' => 0x4b4038,
        b'l' => 0xe3a92a,
        b'L' => 0xf6d262,
        b'i' => 0xc7dbe6,
        b'I' => 0xeef6fa,
        _ => return None,
    }))
}

/// Paints the sheet: pickers in the first three columns, carts in the next two, then a bee.
pub(crate) fn sheet() -> Picture {
    let mut canvas = Canvas::of_tiles((SIDE, SIDE), 6, 1);
    let figures: [&[&str]; 6] =
        [&PICKER_FRONT, &PICKER_BACK, &PICKER_SIDE, &CART_SIDE, &CART_FRONT, &BEE];
    for (column, figure) in (0..).zip(figures) {
        let is_bee = column == 5;
        let (width, height) = (figure[0].len() as i32, figure.len() as i32);
        // A bee hovers over its shadow; all others stand on theirs.
        let left = (SIDE - width) / 2;
        let top = SIDE - height - if is_bee { 8 } else { 1 };
        let reach = if is_bee { 5.0 } else { width as f32 / 2.0 - 1.0 };
        canvas.tile((column, 0), |x, y| {
            let letter = usize::try_from(y - top).ok().and_then(|y| figure.get(y));
            let letter = letter.and_then(|row| row.as_bytes().get(usize::try_from(x - left).ok()?));
            if let Some(found) = letter.and_then(|letter| color(*letter)) {
                return Some(found);
            }
            let (dx, dy) = ((x as f32 - 11.5) / reach, (y as f32 - 21.5) / 2.6);
            let far = dx * dx + dy * dy;
            if far < 1.0 { shadow((90.0 * (1.0 - far * far)) as u8) } else { None }
        });
    }
    canvas.into_picture()
}
