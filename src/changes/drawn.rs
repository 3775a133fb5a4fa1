//! Networks of drawings as parts: their elements, and how these are joined.

use super::token::{self, Token};
use super::tree::{Node, Shape};
use crate::lang::element_words;
use crate::model::{Block, CoilForm, ContactForm, Element, ElementKind, Feed, Network, Project};
use crate::source::Span;

/// The networks of a body.
pub(super) fn networks(project: &Project, list: &[Network]) -> Vec<Node> {
    list.iter().map(|network| of_network(project, network)).collect()
}

fn of_network(project: &Project, network: &Network) -> Node {
    let tidy = network.clone().tidied();
    let mut tokens: Vec<Token> = Vec::new();
    if let Some(label) = &tidy.label {
        tokens.extend([Token::name(&label.text), Token::Sign(":")]);
    }
    let mut node = Node::new(Shape::Network, tokens, network.span, String::new());
    node.origins = network.elements.iter().map(|element| element.span).collect();
    for element in &tidy.elements {
        let mut joined = |wire: crate::model::Wire| node.joined.push(wire.0);
        element.kind.inputs(&mut joined);
        element.kind.outputs(&mut joined);
        node.children.push(of_element(element));
    }
    // Where it was drawn, and how: in the text of a drawing, or by the places that the exchange format keeps.
    let spots = network.elements.iter().filter_map(|element| element.at);
    let spots: String = spots.map(|spot| format!("{},{} ", spot.x, spot.y)).collect();
    node.layout = Some(if spots.is_empty() { raw(project, network.span) } else { spots });
    // A blank line above a network of a drawing is there anyway.
    Node { blank: false, ..node.noted(&network.notes) }
}

fn of_element(element: &Element) -> Node {
    let mut tokens = Vec::new();
    let shape = match &element.kind {
        ElementKind::Contact { form, operand, .. } => {
            tokens.push(Token::Sign(contact(*form)));
            token::expr(&mut tokens, operand);
            Shape::Contact
        }
        ElementKind::Compare { op, left, right, .. } => {
            token::expr(&mut tokens, left);
            tokens.push(Token::Sign(op.symbol()));
            token::expr(&mut tokens, right);
            Shape::Contact
        }
        ElementKind::Coil { form, target, drive, .. } => {
            tokens.push(Token::Sign(coil(*form)));
            token::expr(&mut tokens, target);
            if let Some(drive) = drive {
                tokens.push(Token::part(&drive.word.text));
                drive.below.iter().for_each(|below| token::expr(&mut tokens, below));
            }
            Shape::Coil
        }
        ElementKind::Block(block) => {
            of_block(&mut tokens, block);
            Shape::Box
        }
        ElementKind::Source { value, .. } => {
            token::expr(&mut tokens, value);
            Shape::End
        }
        ElementKind::Sink { target, .. } => {
            tokens.push(Token::Sign("=>"));
            token::expr(&mut tokens, target);
            Shape::End
        }
        ElementKind::Jump { label, .. } => {
            tokens.extend([Token::Sign(">>"), Token::name(&label.text)]);
            Shape::Leave
        }
        ElementKind::Return { .. } => {
            tokens.push(Token::Sign("RETURN"));
            Shape::Leave
        }
    };
    let text = match &element.kind {
        ElementKind::Block(block) => block_words(block),
        ElementKind::Contact { .. }
        | ElementKind::Compare { .. }
        | ElementKind::Coil { .. }
        | ElementKind::Source { .. }
        | ElementKind::Sink { .. }
        | ElementKind::Jump { .. }
        | ElementKind::Return { .. } => element_words(element),
    };
    Node::new(shape, tokens, element.span, text)
}

/// A box with what is written at its pins: `Rinse : TON(PT := T#8s)`.
fn block_words(block: &Block) -> String {
    use crate::lang::st::expression;
    let name = |name: &Option<crate::model::Name>, sign: &str| {
        name.as_ref().map_or(String::new(), |name| format!("{} {sign} ", name.text))
    };
    let inputs = block.inputs.iter().filter_map(|pin| match &pin.feed {
        Feed::Value(value) => {
            let not = if pin.negated { "NOT " } else { "" };
            Some(format!("{}{not}{}", name(&pin.name, ":="), expression(value)))
        }
        Feed::Open | Feed::Wire(_) => pin.negated.then(|| format!("{}NOT ...", name(&pin.name, ":="))),
    });
    let outputs = block.outputs.iter().filter_map(|pin| {
        let target = pin.target.as_ref()?;
        let not = if pin.negated { "NOT " } else { "" };
        Some(format!("{not}{}{}", name(&pin.name, "=>"), expression(target)))
    });
    let pins: Vec<String> = inputs.chain(outputs).collect();
    let head = match &block.instance {
        Some(instance) => format!("{} : {}", expression(instance), block.name.text),
        None => block.name.text.clone(),
    };
    if pins.is_empty() { head } else { format!("{head}({})", pins.join(", ")) }
}

fn of_block(tokens: &mut Vec<Token>, block: &Block) {
    tokens.push(Token::name(&block.name.text));
    if let Some(instance) = &block.instance {
        tokens.push(Token::Sign(":"));
        token::expr(tokens, instance);
    }
    for pin in &block.inputs {
        tokens.extend(pin.name.iter().map(|name| Token::part(&name.text)));
        tokens.push(Token::Sign(":="));
        tokens.extend(pin.negated.then_some(Token::Sign("NOT")));
        match &pin.feed {
            Feed::Open => tokens.push(Token::Sign("open")),
            Feed::Wire(_) => tokens.push(Token::Sign("wire")),
            Feed::Value(value) => token::expr(tokens, value),
        }
    }
    for pin in &block.outputs {
        tokens.extend(pin.name.iter().map(|name| Token::part(&name.text)));
        tokens.push(Token::Sign("=>"));
        tokens.extend(pin.negated.then_some(Token::Sign("NOT")));
        tokens.extend(pin.to.is_some().then_some(Token::Sign("wire")));
        pin.target.iter().for_each(|target| token::expr(tokens, target));
    }
}

const fn contact(form: ContactForm) -> &'static str {
    match form {
        ContactForm::Open => "| |",
        ContactForm::Closed => "|/|",
        ContactForm::Rising => "|P|",
        ContactForm::Falling => "|N|",
    }
}

const fn coil(form: CoilForm) -> &'static str {
    match form {
        CoilForm::Plain => "( )",
        CoilForm::Negated => "(/)",
        CoilForm::Set => "(S)",
        CoilForm::Reset => "(R)",
        CoilForm::Rising => "(P)",
        CoilForm::Falling => "(N)",
    }
}

/// A piece of a source as it stands there, without comments.
pub(super) fn raw(project: &Project, span: Span) -> String {
    let text = project.sources.get(span.file.0 as usize).map_or("", |source| source.slice(span));
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find(['(', '/', '{']) {
        out.push_str(&rest[..at]);
        let here = &rest[at..];
        let end = match here.as_bytes() {
            [b'(', b'*', ..] => Some("*)"),
            [b'/', b'*', ..] => Some("*/"),
            [b'/', b'/', ..] => Some("\n"),
            [b'{', ..] => Some("}"),
            _ => None,
        };
        match end {
            // What is behind a comment on its line is blank.
            Some(end) => {
                out.truncate(out.trim_end_matches([' ', '\t']).len());
                rest = here.find(end).map_or("", |found| &here[found + end.len()..]);
                if end == "\n" {
                    out.push('\n');
                }
            }
            None => {
                out.push_str(&here[..1]);
                rest = &here[1..];
            }
        }
    }
    out.push_str(rest);
    out
}
