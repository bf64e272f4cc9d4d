//! Rebuilds when the demo's files change, new ones among them.

fn main() {
    println!("cargo:rerun-if-changed=demo");
}
