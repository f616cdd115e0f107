//! A window by `winit`, with the pixels of a frame brought to it by `softbuffer`.

use std::error::Error;
use std::num::NonZeroU32;
use std::rc::Rc;
use std::time::{Duration, Instant};

use softbuffer::{Context, Surface};
use sturdy_quilt::{Frame, ScreenPoint, ScreenSize};
use winit::application::ApplicationHandler;
use winit::dpi::PhysicalSize;
use winit::event::{ElementState, MouseButton, WindowEvent};
use winit::event_loop::{ActiveEventLoop, ControlFlow, EventLoop};
use winit::keyboard::{KeyCode, PhysicalKey};
use winit::window::{Window, WindowId};

use crate::{Event, Game, Key};

const TICK: Duration = Duration::from_nanos(1_000_000_000 / 60);

/// Opens a window and plays in it until it is closed, or Escape is pressed.
pub(crate) fn open(
    title: &str,
    size: ScreenSize,
    game: &mut dyn Game,
) -> Result<(), Box<dyn Error>> {
    let event_loop = EventLoop::new()?;
    let mut player =
        Player { title, size, game, shown: None, next_tick: Instant::now(), failed: None };
    event_loop.run_app(&mut player)?;
    player.failed.map_or(Ok(()), Err)
}

struct Player<'a> {
    title: &'a str,
    size: ScreenSize,
    game: &'a mut dyn Game,
    shown: Option<Shown>,
    next_tick: Instant,
    failed: Option<Box<dyn Error>>,
}

struct Shown {
    window: Rc<Window>,
    surface: Surface<Rc<Window>, Rc<Window>>,
}

impl Shown {
    fn new(
        event_loop: &ActiveEventLoop,
        title: &str,
        size: ScreenSize,
    ) -> Result<Shown, Box<dyn Error>> {
        let size = PhysicalSize::new(size.width, size.height);
        let attributes = Window::default_attributes().with_title(title).with_inner_size(size);
        let window = Rc::new(event_loop.create_window(attributes)?);
        let surface = Surface::new(&Context::new(Rc::clone(&window))?, Rc::clone(&window))?;
        Ok(Shown { window, surface })
    }

    /// Brings a frame to the window. One of another size is cut off, or leaves a rest black.
    fn show(&mut self, frame: &Frame) -> Result<(), Box<dyn Error>> {
        let size = self.window.inner_size();
        let (Some(width), Some(height)) =
            (NonZeroU32::new(size.width), NonZeroU32::new(size.height))
        else {
            return Ok(());
        };
        self.surface.resize(width, height)?;
        let mut buffer = self.surface.buffer_mut()?;
        let from = frame.pixels().chunks_exact(frame.size().width.max(1) as usize);
        for (to, from) in buffer.chunks_exact_mut(size.width as usize).zip(from) {
            for (to, [r, g, b, _]) in to.iter_mut().zip(from) {
                *to = u32::from_be_bytes([0, *r, *g, *b]);
            }
        }
        buffer.present()?;
        Ok(())
    }
}

impl Player<'_> {
    fn fail(&mut self, event_loop: &ActiveEventLoop, error: Box<dyn Error>) {
        self.failed = Some(error);
        event_loop.exit();
    }
}

impl ApplicationHandler for Player<'_> {
    fn resumed(&mut self, event_loop: &ActiveEventLoop) {
        match Shown::new(event_loop, self.title, self.size) {
            Ok(shown) => self.shown = Some(shown),
            Err(error) => self.fail(event_loop, error),
        }
        self.next_tick = Instant::now();
    }

    fn about_to_wait(&mut self, event_loop: &ActiveEventLoop) {
        let now = Instant::now();
        // After a long pause the game goes on from where it was.
        if now > self.next_tick + 10 * TICK {
            self.next_tick = now;
        }
        while self.next_tick <= now {
            self.game.event(Event::Tick);
            self.next_tick += TICK;
            if let Some(shown) = &self.shown {
                shown.window.request_redraw();
            }
        }
        event_loop.set_control_flow(ControlFlow::WaitUntil(self.next_tick));
    }

    fn window_event(&mut self, event_loop: &ActiveEventLoop, _: WindowId, event: WindowEvent) {
        match event {
            WindowEvent::CloseRequested => event_loop.exit(),
            WindowEvent::Resized(size) => {
                self.game.event(Event::Resize(ScreenSize::new(size.width, size.height)));
            }
            WindowEvent::CursorMoved { position, .. } => {
                let point = ScreenPoint::new(position.x as f32, position.y as f32);
                self.game.event(Event::Point(point));
            }
            WindowEvent::MouseInput {
                state: ElementState::Pressed,
                button: MouseButton::Left,
                ..
            } => self.game.event(Event::Click),
            WindowEvent::KeyboardInput { event, .. } => {
                if event.physical_key == PhysicalKey::Code(KeyCode::Escape) {
                    event_loop.exit();
                } else if let Some(key) = key(event.physical_key)
                    && !event.repeat
                {
                    let pressed = event.state == ElementState::Pressed;
                    self.game.event(if pressed { Event::Press(key) } else { Event::Release(key) });
                }
            }
            WindowEvent::RedrawRequested => {
                let frame = self.game.paint();
                let shown = self.shown.as_mut().map_or(Ok(()), |shown| shown.show(frame));
                if let Err(error) = shown {
                    self.fail(event_loop, error);
                }
            }
            _ => {}
        }
    }
}

fn key(key: PhysicalKey) -> Option<Key> {
    let PhysicalKey::Code(code) = key else { return None };
    Some(match code {
        KeyCode::ArrowLeft | KeyCode::KeyA => Key::Left,
        KeyCode::ArrowRight | KeyCode::KeyD => Key::Right,
        KeyCode::ArrowUp | KeyCode::KeyW => Key::Up,
        KeyCode::ArrowDown | KeyCode::KeyS => Key::Down,
        KeyCode::Tab => Key::Figures,
        KeyCode::KeyQ => Key::TurnLeft,
        KeyCode::KeyE => Key::TurnRight,
        _ => return None,
    })
}
