//! What is wrong with a profile, short enough for a line over a game.

use tidy_lever::profile::Faults;

/// What is wrong with a profile: the first fault with its place, and how many there are besides.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Broken {
    /// The line of the first fault, from 1; 0 if it has none.
    pub line: u32,
    /// The first fault, in a sentence with its place.
    pub problem: String,
    /// How many there are besides.
    pub more: usize,
}

impl std::fmt::Display for Broken {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.problem)?;
        if self.more > 0 {
            write!(f, " (and {} more)", self.more)?;
        }
        Ok(())
    }
}

impl std::error::Error for Broken {}

impl From<Faults> for Broken {
    fn from(faults: Faults) -> Broken {
        let first = faults.iter().next();
        let line = first.map_or(0, |fault| fault.spot.line);
        let problem = first.map_or_else(
            || "it is at fault".into(),
            |fault| {
                // Where the right name is at hand, all others need not be told.
                let short = fault.nearest.as_ref().and_then(|_| fault.problem.split_once("; "));
                let problem = short.map_or(fault.problem.clone(), |(problem, _)| problem.to_owned());
                let mut fault = fault.clone();
                fault.problem = problem;
                fault.to_string()
            },
        );
        Broken { line, problem, more: faults.len().saturating_sub(1) }
    }
}

impl Broken {
    /// Of a problem that has no place.
    pub fn because(problem: impl Into<String>) -> Broken {
        Broken { line: 0, problem: problem.into(), more: 0 }
    }
}
