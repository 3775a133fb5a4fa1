//! Frames of Modbus TCP: a header of seven bytes, then the request.

/// Most bytes of a frame, header included.
pub const MOST_OF_A_FRAME: usize = 260;

/// Bytes of the header: transaction, protocol, length, unit.
const HEADER: usize = 7;

/// A request or an answer with what its header says.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Frame {
    /// By which a client knows the answer.
    pub transaction: u16,
    /// The unit that is asked; whoever serves one machine answers for any.
    pub unit: u8,
    /// The protocol data unit: function code and data.
    pub pdu: Vec<u8>,
}

/// What is at the beginning of a stream.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Cut {
    /// Not all of a frame is there yet.
    More,
    /// A frame, and how many bytes it takes.
    Frame(Frame, usize),
    /// No frame, and none can follow: where the next one begins cannot be told.
    Malformed(Malformed),
}

/// Why bytes are no frame.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Malformed {
    /// The protocol's number is not 0.
    #[error("the header is that of another protocol")]
    Protocol,
    /// The length is not 2 to 254.
    #[error("the length in the header is not 2 to 254")]
    Length,
}

/// Cuts the first frame off a stream.
#[must_use]
pub fn frame(stream: &[u8]) -> Cut {
    let word = |at: usize| Some(u16::from_be_bytes([*stream.get(at)?, *stream.get(at + 1)?]));
    // What is there of a header is looked at before the rest has come: a stream of something else ends at once.
    if word(2).is_some_and(|protocol| protocol != 0) {
        return Cut::Malformed(Malformed::Protocol);
    }
    let Some(length) = word(4) else { return Cut::More };
    if !(2..=254).contains(&length) {
        return Cut::Malformed(Malformed::Length);
    }
    let end = HEADER - 1 + usize::from(length);
    match (stream.get(HEADER..end), word(0), stream.get(HEADER - 1)) {
        (Some(pdu), Some(transaction), Some(unit)) => {
            Cut::Frame(Frame { transaction, unit: *unit, pdu: pdu.to_vec() }, end)
        }
        _ => Cut::More,
    }
}

impl Frame {
    /// As bytes. What is longer than a frame can be is cut off.
    #[must_use]
    pub fn bytes(&self) -> Vec<u8> {
        let pdu = &self.pdu[..self.pdu.len().min(MOST_OF_A_FRAME - HEADER)];
        let mut out = self.transaction.to_be_bytes().to_vec();
        out.extend([0, 0]);
        out.extend((pdu.len() as u16 + 1).to_be_bytes());
        out.push(self.unit);
        out.extend(pdu);
        out
    }
}
