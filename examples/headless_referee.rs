//! A server that checks what its clients say they do, with the same code by which they predict it.
//!
//! The referee is a process of its own that has no pictures. A client sends it what it does as
//! lines of text, with where it believes to be then; the referee moves the body itself, and refuses
//! what is too fast, leads through something, or reaches too far. What it changes it sends as bytes to
//! all who follow: to a client that has foreseen it, and to one that only watches. Each keeps a map, and
//! at the end all are equal to the last bit.
//!
//! Run with `cargo run --example headless_referee [FOLDER]`; the map without its pictures goes to
//! FOLDER, or to `target/headless_referee`.

use std::error::Error;
use std::fmt;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::io::{BufRead, BufReader, Lines, Write, stdin};
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::str::FromStr;

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use sturdy_quilt::document::Limits;
use sturdy_quilt::edit::Condition;
use sturdy_quilt::quilt::MoverId;
use sturdy_quilt::{
    CellPos, Changeset, FolderSource, GroundMap, Loader, Quilt, WorldPoint, WorldRect, WorldVec,
};

type Fallible<T> = Result<T, Box<dyn Error>>;

const MAP: &str = "terrace.quilt.json";
/// The moves of a walk.
const STEPS: u32 = 60;

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

/// The verdict, where the body is by the referee, the sum over all cells if it was asked for, and what has
/// changed in the map.
#[derive(Clone, Debug)]
struct Answer {
    verdict: Verdict,
    at: WorldPoint,
    sum: u64,
    changes: Vec<u8>,
}

// As lines of text: a number is written so that reading it gives the same bits.
impl fmt::Display for Deed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Deed::Move { by, end } => write!(f, "move {} {} {} {}", by.x, by.y, end.x, end.y),
            Deed::Board { cell } => write!(f, "board {} {}", cell.x(), cell.y()),
            Deed::Sum => f.write_str("sum"),
        }
    }
}

impl FromStr for Deed {
    type Err = Box<dyn Error>;

    fn from_str(line: &str) -> Fallible<Deed> {
        match line.split_whitespace().collect::<Vec<_>>()[..] {
            ["move", x, y, end_x, end_y] => Ok(Deed::Move {
                by: WorldVec::new(x.parse()?, y.parse()?),
                end: WorldPoint::new(end_x.parse()?, end_y.parse()?),
            }),
            ["board", x, y] => Ok(Deed::Board { cell: CellPos::new(x.parse()?, y.parse()?) }),
            ["sum"] => Ok(Deed::Sum),
            _ => Err(format!("`{line}` is no deed").into()),
        }
    }
}

impl fmt::Display for Answer {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Answer { verdict, at, sum, changes } = self;
        write!(f, "{verdict:?} {} {} {sum} {}.", at.x, at.y, STANDARD.encode(changes))
    }
}

impl FromStr for Answer {
    type Err = Box<dyn Error>;

    fn from_str(line: &str) -> Fallible<Answer> {
        let [verdict, x, y, sum, changes] = line.split_whitespace().collect::<Vec<_>>()[..] else {
            return Err(format!("`{line}` is no answer").into());
        };
        let verdict = match verdict {
            "Fine" => Verdict::Fine,
            "TooFast" => Verdict::TooFast,
            "NotThere" => Verdict::NotThere,
            "OutOfReach" => Verdict::OutOfReach,
            "NoWater" => Verdict::NoWater,
            _ => return Err(format!("`{verdict}` is no verdict").into()),
        };
        let at = WorldPoint::new(x.parse()?, y.parse()?);
        let changes = STANDARD.decode(changes.trim_end_matches('.'))?;
        Ok(Answer { verdict, at, sum: sum.parse()?, changes })
    }
}

/// A map with a cart on it: what the clients and the referee have.
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

    /// Lays a board, if there is water and it is near enough; and what has changed, as bytes.
    fn board(&mut self, cell: CellPos) -> Fallible<(Verdict, Vec<u8>)> {
        if (self.quilt.lattice().center(cell) - self.body.center()).length() > Self::REACH {
            return Ok((Verdict::OutOfReach, Vec::new()));
        }
        let (water, board) =
            (self.quilt.ground_rules().class("channel")?, self.quilt.tile("terrace/boardwalk")?);
        let laid = self
            .quilt
            .edit("lay a board", |pen| pen.put_if("boards", cell, Condition::from(water), board))?;
        self.ground.refresh(&self.quilt);
        Ok(match laid.result {
            true => (Verdict::Fine, laid.changes.to_forward_bytes()),
            false => (Verdict::NoWater, Vec::new()),
        })
    }

    /// Makes the changes that the referee sends; what was foreseen is there already.
    fn follow(&mut self, sent: &[u8]) -> Fallible<usize> {
        if sent.is_empty() {
            return Ok(0);
        }
        let changes = Changeset::from_bytes(sent, &self.quilt, &Limits::default())?;
        self.quilt.apply(&changes)?;
        self.ground.refresh(&self.quilt);
        Ok(changes.cells().count())
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
        let (mut sum, mut changes) = (0, Vec::new());
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
            Deed::Board { cell } => {
                let (verdict, changed) = self.board(cell)?;
                changes = changed;
                verdict
            }
            Deed::Sum => {
                sum = self.sum()?;
                Verdict::Fine
            }
        };
        Ok(Answer { verdict, at: self.body.min(), sum, changes })
    }
}

/// The referee: deeds come in, answers go out, until the client is gone.
fn referee(folder: &Path) -> Fallible<()> {
    let mut world = World::load(folder)?;
    for line in stdin().lines() {
        println!("{}", world.judge(line?.parse()?)?);
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

/// The process of the referee, as its client sees it.
struct Referee {
    process: Child,
    deeds: ChildStdin,
    answers: Lines<BufReader<ChildStdout>>,
}

impl Referee {
    fn start(folder: &Path) -> Fallible<Referee> {
        let mut command = Command::new(std::env::current_exe()?);
        command.arg("--referee").arg(folder).stdin(Stdio::piped()).stdout(Stdio::piped());
        let mut process = command.spawn()?;
        let deeds = process.stdin.take().ok_or("no way to the referee")?;
        let answers = process.stdout.take().ok_or("no way from the referee")?;
        Ok(Referee { process, deeds, answers: BufReader::new(answers).lines() })
    }

    fn ask(&mut self, deed: Deed) -> Fallible<Answer> {
        writeln!(self.deeds, "{deed}")?;
        self.answers.next().ok_or("the referee is gone")??.parse()
    }

    fn stop(mut self) -> Fallible<()> {
        drop(self.deeds);
        let status = self.process.wait()?;
        if status.success() { Ok(()) } else { Err(format!("it ended with {status}").into()) }
    }
}

/// The client walks by its own map, and never waits for the answer to move on.
fn walk(world: &mut World, referee: &mut Referee) -> Fallible<()> {
    for step in 0..STEPS {
        let slant = if step % 3 == 0 { 0.25 } else { -0.125 };
        let way = WorldVec::new(1.0, slant);
        let by = way * (world.speed() / way.length() * 0.99);
        world.body = world.led(by);
        let answer = referee.ask(Deed::Move { by, end: world.body.min() })?;
        assert_eq!(answer.verdict, Verdict::Fine, "step {step}: {answer:?}");
        assert_eq!(answer.at, world.body.min(), "in step to the bit");
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
    let (mut world, mut referee) = (World::load(&folder)?, Referee::start(&folder)?);
    let mut watcher = World::load(&folder)?;
    walk(&mut world, &mut referee)?;
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
        let answer = referee.ask(deed)?;
        println!("{what}: {:?}, the cart is at {}", answer.verdict, answer.at);
        assert!(answer.verdict != Verdict::Fine && answer.at == honest);
    }

    for boards in [26..28, 28..29] {
        for x in boards {
            let cell = CellPos::new(x, 16);
            let (predicted, _) = world.board(cell)?;
            let answer = referee.ask(Deed::Board { cell })?;
            println!("a board on {cell}: {:?}, {} bytes", answer.verdict, answer.changes.len());
            assert_eq!(answer.verdict, predicted);
            assert_eq!(world.follow(&answer.changes)?, 0, "it was foreseen");
            watcher.follow(&answer.changes)?;
        }
        walk(&mut world, &mut referee)?;
        println!("over the boards the cart comes to {}", world.body.min());
    }

    let answer = referee.ask(Deed::Sum)?;
    assert_eq!([answer.sum; 2], [world.sum()?, watcher.sum()?], "all maps are equal");
    println!("in step after {} moves; all three maps have the sum {:016x}", 3 * STEPS, answer.sum);
    referee.stop()
}
