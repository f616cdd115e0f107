//! Frames that are kept from picture to picture.

use proptest::prelude::*;
use sturdy_quilt::paint::KeptFrame;
use sturdy_quilt::quilt::Parallax;
use sturdy_quilt::units::ScreenRect;
use sturdy_quilt::{
    Canvas, Cell, CellPos, CellRect, Clock, Color, DrawList, Frame, Lattice, LayerSettings,
    Painter, Quilt, ScreenSize, Sprite, View, WorldPoint, WorldVec,
};

use super::{BACKGROUND, SpriteSeed, any_scene, any_shot, painted, sprites_of};
use crate::scene::{Change, any_change, empty_quilt, make};

/// What happens between two pictures.
#[derive(Clone, Debug)]
enum Step {
    Change(Change),
    /// By so many pixels, which need not be whole.
    Move(f64, f64),
    Time(u64),
    Walk(f64, f64),
    Look(Box<(View, Clock, Vec<SpriteSeed>)>),
    Turn(f64),
}

fn any_step() -> impl Strategy<Value = Step> {
    let whole = || (-9..10_i32, -9..10_i32).prop_map(|(x, y)| (f64::from(x), f64::from(y)));
    let broken = (-3.0..3.0_f64, -3.0..3.0_f64);
    prop_oneof![
        6 => any_change().prop_map(Step::Change),
        4 => prop_oneof![3 => whole().boxed(), 1 => broken.boxed()].prop_map(|(x, y)| Step::Move(x, y)),
        2 => (0..900_u64).prop_map(Step::Time),
        2 => whole().prop_map(|(x, y)| Step::Walk(x, y)),
        1 => any_shot().prop_map(|shot| Step::Look(Box::new(shot))),
        1 => prop_oneof![Just(0.0), -1.0..1.0_f64].prop_map(Step::Turn),
    ]
}

/// What a copy of a picture shows that was brought up to date by what is said of the frame.
fn followed(copy: &Frame, kept: &KeptFrame) -> Frame {
    let now = kept.to_frame();
    let mut followed = Frame::new(now.size());
    let (width, height) = (now.size().width as i32, now.size().height as i32);
    let (x, y) = kept.moved();
    for at in CellRect::new(CellPos::ORIGIN, now.size().width, now.size().height).cells() {
        let place = |x: i32, y: i32| (y * width + x) as usize;
        let is_painted = kept.painted().iter().any(|rect| rect.contains(at.x(), at.y()));
        let (from_x, from_y) = (at.x() - x, at.y() - y);
        let was_shown = (0..width).contains(&from_x) && (0..height).contains(&from_y);
        followed.pixels_mut()[place(at.x(), at.y())] = match is_painted {
            true => now.pixels()[place(at.x(), at.y())],
            false if was_shown && copy.size() == now.size() => copy.pixels()[place(from_x, from_y)],
            false => [1, 2, 3, 4],
        };
    }
    followed
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(512))]

    /// A frame into which only what differs is painted shows what a new one does, and tells what
    /// that was.
    #[test]
    fn a_kept_frame_shows_what_a_new_one_does(
        mut quilt in any_scene(), (view, clock, seeds) in any_shot(),
        steps in prop::collection::vec((any_step(), prop::bool::weighted(0.8)), 1..16),
    ) {
        let (mut view, mut now_ms, mut seeds, mut walked) = (view, clock.now_ms(), seeds, (0.0, 0.0));
        let (mut list, mut painter) = (DrawList::new(), Painter::new());
        let mut frames = [KeptFrame::new(BACKGROUND), KeptFrame::ring(BACKGROUND)];
        let mut copies = frames.each_ref().map(KeptFrame::to_frame);
        for (step, paints) in &steps {
            match step {
                Step::Change(change) => drop(make(&mut quilt, change)),
                Step::Move(x, y) => view = view.moved(WorldVec::new(x / view.zoom(), y / view.zoom())),
                Step::Time(ms) => now_ms += ms,
                Step::Walk(x, y) => walked = (walked.0 + x, walked.1 + y),
                Step::Look(shot) => {
                    let (other, clock, others) = &**shot;
                    (view, now_ms, seeds) = (*other, clock.now_ms(), others.clone());
                }
                Step::Turn(turn) => view = view.turned(*turn),
            }
            let mut sprites = sprites_of(&quilt, &seeds);
            // Every other one walks.
            for sprite in sprites.iter_mut().step_by(2) {
                sprite.foot = sprite.foot + WorldVec::new(walked.0, walked.1);
            }
            list.rebuild_with(&quilt, &view, &Clock::at_ms(now_ms), &sprites);
            if !paints {
                continue;
            }
            let new = painted(&list);
            for (kept, copy) in frames.iter_mut().zip(&mut copies) {
                painter.paint_into(&list, kept);
                prop_assert!(kept.to_frame() == new, "{:?}", kept.painted());
                *copy = followed(copy, kept);
                prop_assert!(*copy == new, "{:?} {:?}", kept.moved(), kept.painted());
            }
            prop_assert!(frames[0].frame() == &new);
        }
    }
}

fn wide_quilt(settings: impl Fn(LayerSettings) -> LayerSettings) -> Quilt {
    let mut quilt = empty_quilt();
    quilt
        .edit("wide", |pen| {
            let (grass, shimmer) = (pen.tile("flat/grass")?, pen.tile("art/shimmer")?);
            pen.fill("soil", CellRect::new(CellPos::new(-100, -100), 200, 200), grass)?;
            pen.put("growth", CellPos::new(2, 1), shimmer)?;
            pen.set_layer("growth", &settings)
        })
        .unwrap();
    quilt
}

/// A list, a painter and a frame that go together.
#[derive(Default)]
struct Screen {
    list: DrawList,
    painter: Painter,
}

impl Screen {
    /// How many pixels are painted, and whether the frame then shows what a new one does.
    fn paint(
        &mut self,
        kept: &mut KeptFrame,
        quilt: &Quilt,
        view: &View,
        (now_ms, sprites): (u64, &[Sprite]),
    ) -> u64 {
        self.list.rebuild_with(quilt, view, &Clock::at_ms(now_ms), sprites);
        self.painter.paint_into(&self.list, kept);
        assert!(kept.to_frame() == painted(&self.list));
        kept.painted_pixels()
    }
}

/// Cells are 8 × 6 pixels, the screen 160 × 120.
#[test]
fn only_what_differs_is_painted() {
    let view = View::new(ScreenSize::new(160, 120)).centered_on(WorldPoint::new(0.5, 0.5));
    for mut kept in [KeptFrame::new(BACKGROUND), KeptFrame::ring(BACKGROUND)] {
        let mut screen = Screen::default();
        let mut quilt = wide_quilt(|layer| layer);
        assert_eq!(screen.paint(&mut kept, &quilt, &view, (0, &[])), 160 * 120);
        assert_eq!(screen.paint(&mut kept, &quilt, &view, (0, &[])), 0, "nothing has changed");
        let wall = quilt.tile("flat/wall").unwrap();
        quilt.edit("one", |pen| pen.put("soil", CellPos::new(-3, 4), wall)).unwrap();
        assert_eq!(screen.paint(&mut kept, &quilt, &view, (0, &[])), 8 * 6, "one cell");
        quilt.edit("far", |pen| pen.put("soil", CellPos::new(90, 4), wall)).unwrap();
        assert_eq!(screen.paint(&mut kept, &quilt, &view, (0, &[])), 0, "beyond the screen");
        let frames = screen.paint(&mut kept, &quilt, &view, (10_000, &[]));
        assert!(frames <= 8 * 6, "an animated cell");
        let time = (10_000, &[][..]);
        let moved = view.moved(WorldVec::new(3.0, -2.0));
        let strips = 3 * 118 + 2 * 160;
        assert_eq!(screen.paint(&mut kept, &quilt, &moved, time), strips, "a camera that scrolls");
        assert_eq!(kept.moved(), (-3, 2));
        let walker = |x: f64| [Sprite::new(1, Cell::of(wall), WorldPoint::new(x, 0.5))];
        assert_eq!(screen.paint(&mut kept, &quilt, &moved, (10_000, &walker(0.0))), 48);
        assert_eq!(screen.paint(&mut kept, &quilt, &moved, (10_000, &walker(2.0))), 2 * 48);
        kept.forget();
        assert_eq!(screen.paint(&mut kept, &quilt, &moved, (10_000, &walker(2.0))), 160 * 120);
    }
}

#[test]
fn what_parts_on_the_screen_is_painted_as_a_whole() {
    let view = View::new(ScreenSize::new(160, 120));
    let all = 160 * 120;
    let moves_apart = |layer: LayerSettings| layer.with_parallax(Parallax { x: 0.5, y: 1.0 });
    let (mut screen, mut kept) = (Screen::default(), KeptFrame::new(BACKGROUND));
    let quilt = wide_quilt(moves_apart);
    screen.paint(&mut kept, &quilt, &view, (0, &[]));
    let (aside, down) = (WorldVec::new(4.0, 0.0), WorldVec::new(0.0, 4.0));
    assert_eq!(screen.paint(&mut kept, &quilt, &view.moved(aside), (0, &[])), all);
    let both = view.moved(aside).moved(down);
    assert_eq!(
        screen.paint(&mut kept, &quilt, &both, (0, &[])),
        160 * 4,
        "they move down together"
    );
    let zoomed = both.zoomed(1.7);
    assert_eq!(screen.paint(&mut kept, &quilt, &zoomed, (0, &[])), all);
    let turned = both.turned(0.3);
    assert_eq!(screen.paint(&mut kept, &quilt, &turned, (0, &[])), all);
    assert_eq!(screen.paint(&mut kept, &quilt, &turned, (0, &[])), 0, "turned, but unchanged");
}

/// A map without cells, or without layers, moves with the camera, however far that jumps.
#[test]
fn a_camera_may_jump_anywhere() {
    let mut screen = Screen::default();
    for quilt in [empty_quilt(), Quilt::new(Lattice::default())] {
        for mut kept in [KeptFrame::new(BACKGROUND), KeptFrame::ring(BACKGROUND)] {
            for x in [0.0, 3.0, -1e12, f64::MAX, f64::MIN, 0.0] {
                let view = View::new(ScreenSize::new(16, 12)).centered_on(WorldPoint::new(x, -x));
                screen.paint(&mut kept, &quilt, &view, (0, &[]));
            }
        }
    }
}

#[test]
fn a_ring_shows_its_picture_in_pieces() {
    let view = View::new(ScreenSize::new(160, 120));
    let (mut screen, mut kept) = (Screen::default(), KeptFrame::ring(Color::CLEAR));
    assert_eq!(kept.parts().count(), 0, "nothing was painted yet");
    let quilt = wide_quilt(|layer| layer);
    for steps in 0..40 {
        let way = f64::from(steps) * 7.0;
        let view = view.moved(WorldVec::new(way, -way));
        screen.list.rebuild(&quilt, &view);
        screen.painter.paint_into(&screen.list, &mut kept);
        let parts: Vec<_> = kept.parts().collect();
        let pixels: u64 = parts.iter().map(|part| part.on_screen.pixel_count()).sum();
        assert_eq!(pixels, 160 * 120);
        assert!(parts.len() <= 4);
        let first = parts.iter().find(|part| part.on_screen.contains(0, 0)).unwrap();
        assert_eq!(first.in_memory, kept.corner());
    }
    // A window shows the same; what has no room there is cut off.
    for width in [150, 20] {
        let (frame, mut buffer) = (kept.to_frame(), vec![7_u32; 170 * 100]);
        let size = ScreenSize::new(width, 100);
        kept.copy_to(Canvas::rgb0(&mut buffer, size, 170).unwrap());
        for (at, pixel) in buffer.iter().enumerate() {
            let (x, y) = (at % 170, at / 170);
            let [r, g, b, _] = frame.pixels()[y * 160 + x.min(159)];
            let is_window = x < width as usize;
            let expected = if is_window { u32::from_be_bytes([0, r, g, b]) } else { 7 };
            assert_eq!(*pixel, expected, "{x},{y}");
        }
    }
    let screen = ScreenRect::of_size(view.size());
    assert_eq!(
        kept.painted().iter().map(|rect| rect.intersection(screen)).collect::<Vec<_>>(),
        kept.painted()
    );
}
