//! A server that checks what its clients say they do, with the same code by which they predict it.
//!
//! The referee is a process of its own that has no pictures. A client sends it what it does as
//! bytes, with where it believes to be then; the referee moves the body itself, and refuses what is
//! too fast, leads through something, or reaches too far. Both keep a map, and at the end both are
//! equal to the last bit.
//!
//! Run with `cargo run --example headless_referee [FOLDER]`; the map without its pictures goes to
//! FOLDER, or to `target/headless_referee`.

use std::error::Error;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::io::{Read, Write, stdin, stdout};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use sturdy_quilt::{
    CellPos, Condition, FolderSource, GroundMap, Loader, MoverId, Quilt, WorldPoint, WorldRect,
    WorldVec,
};

type Fallible<T> = Result<T, Box<dyn Error>>;

const MAP: &str = "terrace.quilt.json";

/// What a client does.
#[derive(Clone, Copy, Debug)]
enum Deed {
    /// It moves, and believes to end there.
    Move { by: WorldVec, end: WorldPoint },
    /// It lays a board on the water.
    Board { cell: CellPos },
    /// It asks for the sum over all cells.
    Sum,
}

/// What the referee says to that.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Verdict {
    Fine,
    TooFast,
    /// It does not end where it says.
    NotThere,
    OutOfReach,
    /// There is no water.
    NoWater,
}

/// The verdict, where the body is by the referee, and the sum over all cells if it was asked for.
#[derive(Clone, Copy, Debug)]
struct Answer {
    verdict: Verdict,
    at: WorldPoint,
    sum: u64,
}

// As bytes: a letter, and then two numbers of eight bytes or more, the lowest byte first.
impl Deed {
    const BYTES: usize = 33;

    fn to_bytes(self) -> [u8; Deed::BYTES] {
        let (letter, numbers) = match self {
            Deed::Move { by, end } => (b'm', [by.x, by.y, end.x, end.y]),
            Deed::Board { cell } => (b'b', [cell.x().into(), cell.y().into(), 0.0, 0.0]),
            Deed::Sum => (b's', [0.0; 4]),
        };
        let mut bytes = [letter; Deed::BYTES];
        for (bytes, number) in bytes[1..].chunks_exact_mut(8).zip(numbers) {
            bytes.copy_from_slice(&number.to_bits().to_le_bytes());
        }
        bytes
    }

    fn from_bytes(bytes: [u8; Deed::BYTES]) -> Fallible<Deed> {
        let mut numbers = [0.0; 4];
        for (bytes, number) in bytes[1..].chunks_exact(8).zip(&mut numbers) {
            *number = f64::from_bits(u64::from_le_bytes(bytes.try_into()?));
        }
        let [a, b, c, d] = numbers;
        match bytes[0] {
            b'm' => Ok(Deed::Move { by: WorldVec::new(a, b), end: WorldPoint::new(c, d) }),
            // Numbers beyond the cells come to the nearest.
            b'b' => Ok(Deed::Board { cell: CellPos::new(a as i32, b as i32) }),
            b's' => Ok(Deed::Sum),
            letter => Err(format!("no deed begins with the byte {letter}").into()),
        }
    }
}

impl Answer {
    const BYTES: usize = 25;
    const VERDICTS: [Verdict; 5] =
        [Verdict::Fine, Verdict::TooFast, Verdict::NotThere, Verdict::OutOfReach, Verdict::NoWater];

    fn to_bytes(self) -> [u8; Answer::BYTES] {
        let mut bytes = [self.verdict as u8; Answer::BYTES];
        bytes[1..9].copy_from_slice(&self.at.x.to_bits().to_le_bytes());
        bytes[9..17].copy_from_slice(&self.at.y.to_bits().to_le_bytes());
        bytes[17..].copy_from_slice(&self.sum.to_le_bytes());
        bytes
    }

    fn from_bytes(bytes: [u8; Answer::BYTES]) -> Fallible<Answer> {
        let number = |from: usize| -> Fallible<u64> {
            Ok(u64::from_le_bytes(bytes[from..from + 8].try_into()?))
        };
        let verdict = *Answer::VERDICTS.get(usize::from(bytes[0])).ok_or("an unknown verdict")?;
        let at = WorldPoint::new(f64::from_bits(number(1)?), f64::from_bits(number(9)?));
        Ok(Answer { verdict, at, sum: number(17)? })
    }
}

/// A map with a cart on it: what both the client and the referee have.
struct World {
    quilt: Quilt,
    ground: GroundMap,
    cart: MoverId,
    body: WorldRect,
}

impl World {
    /// How far the cart gets in a step on good ground, in world units.
    const SPEED: f64 = 4.0;
    /// How far the carter reaches, from the middle of the cart to that of a cell.
    const REACH: f64 = 48.0;

    fn load(folder: &Path) -> Fallible<World> {
        let loader = Loader::new().without_pictures();
        let quilt = loader.load(&FolderSource::new(folder), MAP)?.quilt;
        let (ground, cart) = (GroundMap::of(&quilt), quilt.mover("cart")?);
        let body = WorldRect::between(WorldPoint::new(360.0, 257.0), WorldPoint::new(380.0, 269.0));
        Ok(World { quilt, ground, cart, body })
    }

    /// How far the cart may go in a step where it is.
    fn speed(&self) -> f64 {
        Self::SPEED * self.ground.slowest_under(self.cart, self.body)
    }

    /// Where a motion leads.
    fn led(&self, by: WorldVec) -> WorldRect {
        self.ground.slide(self.cart, self.body, by).end
    }

    /// Lays a board, if there is water and it is near enough.
    fn board(&mut self, cell: CellPos) -> Fallible<Verdict> {
        if (self.quilt.lattice().center(cell) - self.body.center()).length() > Self::REACH {
            return Ok(Verdict::OutOfReach);
        }
        let (water, board) =
            (self.quilt.ground_rules().class("channel")?, self.quilt.tile("terrace/boardwalk")?);
        let laid = self
            .quilt
            .edit("lay a board", |pen| pen.put_if("boards", cell, Condition::from(water), board))?;
        self.ground.refresh(&self.quilt);
        Ok(if laid.result { Verdict::Fine } else { Verdict::NoWater })
    }

    /// A sum over all cells of all layers: equal maps have equal sums.
    fn sum(&self) -> Fallible<u64> {
        let mut hasher = DefaultHasher::new();
        let mut cells = Vec::new();
        for layer in self.quilt.layers() {
            layer.name().hash(&mut hasher);
            layer.cells().read_rect(self.quilt.bounds(), &mut cells)?;
            cells.hash(&mut hasher);
        }
        Ok(hasher.finish())
    }

    /// What the referee does: it believes nothing.
    fn judge(&mut self, deed: Deed) -> Fallible<Answer> {
        let mut sum = 0;
        let verdict = match deed {
            // What is no number is not slow enough either.
            Deed::Move { by, end } if by.length() <= self.speed() => {
                let led = self.led(by);
                if led.min() == end {
                    self.body = led;
                    Verdict::Fine
                } else {
                    Verdict::NotThere
                }
            }
            Deed::Move { .. } => Verdict::TooFast,
            Deed::Board { cell } => self.board(cell)?,
            Deed::Sum => {
                sum = self.sum()?;
                Verdict::Fine
            }
        };
        Ok(Answer { verdict, at: self.body.min(), sum })
    }
}

/// The referee: deeds come in, answers go out, until the client is gone.
fn referee(folder: &Path) -> Fallible<()> {
    let mut world = World::load(folder)?;
    let (mut deeds, mut answers) = (stdin().lock(), stdout().lock());
    let mut bytes = [0; Deed::BYTES];
    while deeds.read_exact(&mut bytes).is_ok() {
        let answer = world.judge(Deed::from_bytes(bytes)?)?;
        answers.write_all(&answer.to_bytes())?;
        answers.flush()?;
    }
    Ok(())
}

/// Copies the map and its tile sets, and no picture.
fn copy_without_pictures(folder: &Path) -> Fallible<()> {
    std::fs::create_dir_all(folder)?;
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo");
    for entry in std::fs::read_dir(demo)? {
        let path = entry?.path();
        if path.extension().is_some_and(|ending| ending == "json")
            && let Some(name) = path.file_name()
        {
            std::fs::copy(&path, folder.join(name))?;
        }
    }
    Ok(())
}

fn main() -> Fallible<()> {
    let args: Vec<PathBuf> = std::env::args_os().skip(1).map(PathBuf::from).collect();
    if let [word, folder] = &args[..]
        && word.as_os_str() == "--referee"
    {
        return referee(folder);
    }
    let folder = args.into_iter().next().unwrap_or_else(|| "target/headless_referee".into());
    copy_without_pictures(&folder)?;
    let mut child = Command::new(std::env::current_exe()?)
        .arg("--referee")
        .arg(&folder)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()?;
    let (mut to, mut from) =
        (child.stdin.take().ok_or("no way to")?, child.stdout.take().ok_or("no way from")?);
    let mut ask = |deed: Deed| -> Fallible<Answer> {
        to.write_all(&deed.to_bytes())?;
        let mut bytes = [0; Answer::BYTES];
        from.read_exact(&mut bytes)?;
        Answer::from_bytes(bytes)
    };

    // The client predicts by its own map, and never waits for the answer to move on.
    let mut world = World::load(&folder)?;
    let mut steps = 0;
    let mut walk = |world: &mut World,
                    ask: &mut dyn FnMut(Deed) -> Fallible<Answer>|
     -> Fallible<()> {
        for step in 0..60 {
            let slant = if step % 3 == 0 { 0.25 } else { -0.125 };
            let by = WorldVec::new(1.0, slant)
                * (world.speed() / WorldVec::new(1.0, slant).length() * 0.99);
            world.body = world.led(by);
            let answer = ask(Deed::Move { by, end: world.body.min() })?;
            assert_eq!(answer.verdict, Verdict::Fine, "step {step}: {answer:?}");
            assert_eq!(answer.at.x.to_bits(), world.body.min().x.to_bits(), "in step to the bit");
            assert_eq!(answer.at.y.to_bits(), world.body.min().y.to_bits(), "in step to the bit");
            steps += 1;
        }
        Ok(())
    };
    walk(&mut world, &mut ask)?;
    println!("the channel stops the cart at {}", world.body.min());

    // What is not allowed changes nothing.
    let honest = world.body.min();
    let step = WorldVec::new(world.speed(), 0.0);
    let far = WorldVec::new(80.0, 0.0);
    let refused = [
        ("a step into the channel", Deed::Move { by: step, end: honest + step }),
        ("eighty units at once", Deed::Move { by: far, end: honest + far }),
        ("no number", Deed::Move { by: WorldVec::new(f64::NAN, 0.0), end: honest }),
        ("a board far away", Deed::Board { cell: CellPos::new(27, 2) }),
        ("a board on the path", Deed::Board { cell: world.ground.lattice().cell_at(honest) }),
    ];
    for (what, deed) in refused {
        let answer = ask(deed)?;
        println!("{what}: {:?}, the cart is at {}", answer.verdict, answer.at);
        assert!(answer.verdict != Verdict::Fine && answer.at == honest);
    }

    for boards in [26..28, 28..29] {
        for x in boards {
            let cell = CellPos::new(x, 16);
            let predicted = world.board(cell)?;
            let answer = ask(Deed::Board { cell })?;
            println!("a board on {cell}: {:?}", answer.verdict);
            assert_eq!(answer.verdict, predicted);
        }
        walk(&mut world, &mut ask)?;
        println!("over the boards the cart comes to {}", world.body.min());
    }

    let answer = ask(Deed::Sum)?;
    assert_eq!(answer.sum, world.sum()?, "both maps are equal");
    println!("in step after {steps} moves; both maps have the sum {:016x}", answer.sum);
    drop(to);
    let status = child.wait()?;
    if status.success() { Ok(()) } else { Err(format!("the referee ended with {status}").into()) }
}
