//! Shows a folder's files on this machine, as `cargo page show` does.

use std::io::{BufRead, BufReader, Write};
use std::net::{TcpListener, TcpStream};
use std::path::{Path, PathBuf};

/// Serves a folder on a thread of its own; its address.
pub fn serve(folder: PathBuf) -> String {
    let listener = TcpListener::bind(("127.0.0.1", 0)).unwrap();
    let home = format!("http://{}/", listener.local_addr().unwrap());
    std::thread::spawn(move || {
        for stream in listener.incoming().flatten() {
            let folder = folder.clone();
            // A browser that hangs up is not a fault.
            std::thread::spawn(move || answer(stream, &folder).ok());
        }
    });
    home
}

fn answer(mut stream: TcpStream, folder: &Path) -> std::io::Result<()> {
    let mut lines = BufReader::new(&stream).lines();
    let first = lines.next().transpose()?.unwrap_or_default();
    for line in lines {
        if line?.is_empty() {
            break;
        }
    }
    let name = first.split(' ').nth(1).unwrap_or("/").trim_start_matches('/').to_owned();
    let path = folder.join(if name.is_empty() { "index.html" } else { &name });
    let kind = match path.extension().and_then(|ending| ending.to_str()) {
        Some("html") => "text/html; charset=utf-8",
        Some("js") => "text/javascript",
        Some("wasm") => "application/wasm",
        _ => "text/plain",
    };
    let (status, body) = std::fs::read(&path).map_or(("404 Not Found", Vec::new()), |body| ("200 OK", body));
    write!(
        stream,
        "HTTP/1.1 {status}\r\ncontent-type: {kind}\r\ncontent-length: {}\r\nconnection: close\r\n\
         cross-origin-opener-policy: same-origin\r\ncross-origin-embedder-policy: require-corp\r\n\r\n",
        body.len()
    )?;
    stream.write_all(&body)
}
