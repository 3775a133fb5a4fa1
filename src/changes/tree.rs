//! A body as a tree of parts that can be held against those of another one: statements with what is in them, rungs of a
//! list with their instructions, networks with their elements.

use super::token::{self, Print, Token};
use crate::lang::st::expression;
use crate::lang::{il, st};
use crate::model::{Body, CaseBranch, Comment, Expr, Instr, InstrKind, Notes, Operand, Project, Stmt, StmtKind, When};
use crate::source::Span;

/// What a part is; only parts of one shape are held against each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(super) enum Shape {
    /// A statement without statements in it.
    Step,
    If,
    /// A condition with its statements.
    Branch,
    /// The statements behind ELSE.
    Else,
    Case,
    /// Labels with their statements.
    Label,
    For,
    While,
    Repeat,
    /// Instructions from a load to before the next.
    Rung,
    Instruction,
    /// An instruction with others in its parentheses.
    Nested,
    Network,
    Contact,
    Coil,
    Box,
    /// A value or variable at the end of a wire.
    End,
    /// A jump or return.
    Leave,
}

impl Shape {
    /// What it is called.
    pub(super) const fn word(self) -> &'static str {
        match self {
            Shape::Step
            | Shape::If
            | Shape::Branch
            | Shape::Else
            | Shape::Case
            | Shape::Label
            | Shape::For
            | Shape::While
            | Shape::Repeat => "statement",
            Shape::Rung => "rung",
            Shape::Instruction | Shape::Nested => "instruction",
            Shape::Network => "network",
            Shape::Contact | Shape::Coil | Shape::Box | Shape::End | Shape::Leave => "element",
        }
    }

    /// Whether it is a part of a drawing's network.
    pub(super) const fn is_element(self) -> bool {
        match self {
            Shape::Contact | Shape::Coil | Shape::Box | Shape::End | Shape::Leave => true,
            Shape::Step
            | Shape::If
            | Shape::Branch
            | Shape::Else
            | Shape::Case
            | Shape::Label
            | Shape::For
            | Shape::While
            | Shape::Repeat
            | Shape::Rung
            | Shape::Instruction
            | Shape::Nested
            | Shape::Network => false,
        }
    }
}

/// A part of a body.
#[derive(Clone, Debug)]
pub(super) struct Node {
    pub(super) shape: Shape,
    /// What it says itself, without what is in it.
    pub(super) tokens: Vec<Token>,
    /// Of a network how its elements are joined.
    pub(super) joined: Vec<u32>,
    pub(super) children: Vec<Node>,
    /// Where it stands; its own operations come from there.
    pub(super) span: Span,
    /// Of a network where the operations of its elements come from; of a rung that loads a number also those up to the
    /// next load: the number becomes a part of what takes it.
    pub(super) origins: Vec<Span>,
    /// What is shown of it.
    pub(super) text: String,
    /// The word below what is in it.
    pub(super) closing: Option<&'static str>,
    /// Comments above and behind it.
    pub(super) comments: Vec<String>,
    /// How it is laid out, which means nothing; not known of what goes by other names.
    pub(super) layout: Option<String>,
    /// A blank line stands above.
    pub(super) blank: bool,
    /// A number of its network in the unit, from 0.
    pub(super) network: usize,
    /// All of it, with what is in it.
    pub(super) whole: Print,
}

impl Node {
    pub(super) fn new(shape: Shape, tokens: Vec<Token>, span: Span, text: String) -> Node {
        Node {
            shape,
            tokens,
            joined: Vec::new(),
            children: Vec::new(),
            span,
            origins: Vec::new(),
            text,
            closing: None,
            comments: Vec::new(),
            layout: None,
            blank: false,
            network: 0,
            whole: Print::of(&()),
        }
    }

    pub(super) fn noted(mut self, notes: &Notes) -> Node {
        self.comments.extend(comments(notes.leading.iter().chain(&notes.trailing)));
        self.blank = notes.blank_before;
        self
    }

    /// Gives it and all that is in it a fingerprint.
    pub(super) fn seal(&mut self) {
        self.children.iter_mut().for_each(Node::seal);
        let inner: Vec<Print> = self.children.iter().map(|child| child.whole).collect();
        self.whole = Print::of(&(self.shape, &self.tokens, &self.joined, inner));
    }

    /// Where the operations of it and of all that is in it come from.
    pub(super) fn spans(&self) -> Vec<Span> {
        let mut out = Vec::new();
        self.each(&mut |inner| {
            out.push(inner.span);
            out.extend(&inner.origins);
        });
        out
    }

    /// Calls `found` with it and all that is in it, outermost first.
    pub(super) fn each<'n>(&'n self, found: &mut dyn FnMut(&'n Node)) {
        found(self);
        self.children.iter().for_each(|child| child.each(found));
    }

    pub(super) fn each_mut(&mut self, found: &mut dyn FnMut(&mut Node)) {
        found(self);
        self.children.iter_mut().for_each(|child| child.each_mut(found));
    }

    /// What it says in one line: what is in it is told by dots.
    pub(super) fn line(&self) -> String {
        match (self.shape, self.children.len()) {
            (Shape::Rung, _) => self.children.iter().map(|c| c.text.trim()).collect::<Vec<_>>().join(" | "),
            (Shape::If, _) => format!("{} ...", self.children.first().map_or("", |c| c.text.as_str())),
            (Shape::Network, _) => {
                let elements: Vec<&str> = self.children.iter().map(|c| c.text.as_str()).collect();
                elements.join(", ")
            }
            (_, 0) => self.text.clone(),
            _ => format!("{} ...", self.text),
        }
    }
}

/// What comments say.
pub(super) fn comments<'c>(list: impl Iterator<Item = &'c Comment>) -> Vec<String> {
    list.map(|comment| comment.text.split_whitespace().collect::<Vec<_>>().join(" ")).collect()
}

/// The parts of a body, outermost first.
pub(super) fn parts(project: &Project, body: &Body) -> Vec<Node> {
    let builder = Builder { project };
    let mut out = match body {
        Body::Statements(list) => builder.statements(list),
        Body::Instructions(list) => builder.rungs(list),
        Body::Ladder(list) | Body::Blocks(list) => super::drawn::networks(project, list),
    };
    let mut network = 0;
    for (at, node) in out.iter_mut().enumerate() {
        let begins = match body {
            Body::Statements(_) | Body::Instructions(_) => !node.comments.is_empty() || node.blank,
            Body::Ladder(_) | Body::Blocks(_) => true,
        };
        network += usize::from(at > 0 && begins);
        node.each_mut(&mut |inner| inner.network = network);
    }
    out
}

struct Builder<'p> {
    project: &'p Project,
}

impl Builder<'_> {
    /// What is shown of something: the source's own words where a dialect has its own.
    fn shown(&self, span: Span, written: impl FnOnce() -> String) -> String {
        if self.project.library.is_some() { self.project.excerpt(span) } else { one_line(&written()) }
    }

    /// How a piece of text is laid out: its own letters and blanks.
    fn layout(&self, span: Span) -> String {
        super::drawn::raw(self.project, span)
    }

    fn statements(&self, list: &[Stmt]) -> Vec<Node> {
        let mut out: Vec<Node> = list.iter().map(|stmt| self.statement(stmt)).collect();
        // Above the first one a blank line says nothing.
        out.iter_mut().take(1).for_each(|first| first.blank = false);
        out
    }

    fn statement(&self, stmt: &Stmt) -> Node {
        let mut tokens = Vec::new();
        let mut node = match &stmt.kind {
            StmtKind::Empty
            | StmtKind::Assign(..)
            | StmtKind::Call(_)
            | StmtKind::Exit
            | StmtKind::Continue
            | StmtKind::Return => self.step(stmt),
            StmtKind::If(branches, otherwise) => {
                let mut node = Node::new(Shape::If, vec![Token::Sign("IF")], stmt.span, String::new());
                for (number, (condition, body)) in branches.iter().enumerate() {
                    let word = if number == 0 { "IF" } else { "ELSIF" };
                    let text = format!("{word} {} THEN", expression(condition));
                    node.children.push(self.headed(Shape::Branch, condition, text, self.statements(body), stmt.span));
                }
                node.children.extend(otherwise.as_ref().map(|body| self.otherwise(body, stmt.span)));
                Node { closing: Some("END_IF;"), ..node }
            }
            StmtKind::Case(selector, branches, otherwise) => {
                let text = format!("CASE {} OF", expression(selector));
                let mut inner: Vec<Node> = branches.iter().map(|branch| self.branch(branch, stmt.span)).collect();
                inner.extend(otherwise.as_ref().map(|body| self.otherwise(body, stmt.span)));
                let node = self.headed(Shape::Case, selector, text, inner, stmt.span);
                Node { closing: Some("END_CASE;"), ..node }
            }
            StmtKind::For(head, body) => {
                token::expr(&mut tokens, &head.var);
                for (word, value) in [(":=", Some(&head.from)), ("TO", Some(&head.to)), ("BY", head.by.as_ref())] {
                    if let Some(value) = value {
                        tokens.push(Token::Sign(word));
                        token::expr(&mut tokens, value);
                    }
                }
                let by = head.by.as_ref().map_or(String::new(), |by| format!(" BY {}", expression(by)));
                let [var, from, to] = [&head.var, &head.from, &head.to].map(expression);
                let node = Node::new(Shape::For, tokens, stmt.span, format!("FOR {var} := {from} TO {to}{by} DO"));
                Node { children: self.statements(body), closing: Some("END_FOR;"), ..node }
            }
            StmtKind::While(condition, body) => {
                let text = format!("WHILE {} DO", expression(condition));
                let node = self.headed(Shape::While, condition, text, self.statements(body), stmt.span);
                Node { closing: Some("END_WHILE;"), ..node }
            }
            StmtKind::Repeat(body, until) => {
                let text = format!("REPEAT UNTIL {}", expression(until));
                let node = self.headed(Shape::Repeat, until, text, self.statements(body), stmt.span);
                Node { closing: Some("END_REPEAT;"), ..node }
            }
        };
        if node.children.is_empty() {
            node.layout = Some(self.layout(stmt.span));
        }
        node.noted(&stmt.notes)
    }

    fn headed(&self, shape: Shape, head: &Expr, text: String, children: Vec<Node>, span: Span) -> Node {
        let mut tokens = Vec::new();
        token::expr(&mut tokens, head);
        let node = Node::new(shape, tokens, span, text);
        Node { children, layout: Some(self.layout(head.span)), ..node }
    }

    fn otherwise(&self, body: &[Stmt], span: Span) -> Node {
        let node = Node::new(Shape::Else, vec![Token::Sign("ELSE")], span, "ELSE".to_string());
        Node { children: self.statements(body), ..node }
    }

    fn branch(&self, branch: &CaseBranch, span: Span) -> Node {
        let mut tokens = Vec::new();
        for (number, label) in branch.labels.iter().enumerate() {
            tokens.extend((number > 0).then_some(Token::Sign(",")));
            token::label(&mut tokens, label);
        }
        let text = format!("{}:", words(&tokens));
        let node = Node::new(Shape::Label, tokens, span, text).noted(&branch.notes);
        Node { children: self.statements(&branch.body), ..node }
    }

    /// A statement without others in it.
    fn step(&self, stmt: &Stmt) -> Node {
        let mut tokens = Vec::new();
        match &stmt.kind {
            StmtKind::Assign(target, value) => {
                token::expr(&mut tokens, target);
                tokens.push(Token::Sign(":="));
                token::expr(&mut tokens, value);
            }
            StmtKind::Call(call) => token::call(&mut tokens, call),
            StmtKind::Exit => tokens.push(Token::Sign("EXIT")),
            StmtKind::Continue => tokens.push(Token::Sign("CONTINUE")),
            StmtKind::Return => tokens.push(Token::Sign("RETURN")),
            StmtKind::Empty
            | StmtKind::If(..)
            | StmtKind::Case(..)
            | StmtKind::For(..)
            | StmtKind::While(..)
            | StmtKind::Repeat(..) => tokens.push(Token::Sign(";")),
        }
        let text = self.shown(stmt.span, || {
            let mut text = String::new();
            let bare = Stmt { notes: Notes::default(), ..stmt.clone() };
            st::statements(&mut text, &[bare], 0);
            text
        });
        Node::new(Shape::Step, tokens, stmt.span, text)
    }

    /// Instructions by rungs: each begins with a load, a label, or what asks nothing of what stands above it.
    fn rungs(&self, list: &[Instr]) -> Vec<Node> {
        let mut out: Vec<Node> = Vec::new();
        for instr in list {
            let node = self.instruction(instr);
            match out.last_mut().filter(|_| !begins(instr)) {
                Some(rung) => rung.children.push(node),
                None => {
                    let mut rung = Node::new(Shape::Rung, Vec::new(), node.span, String::new());
                    rung.comments = comments(instr.notes.leading.iter());
                    rung.blank = instr.notes.blank_before;
                    let own = comments(instr.notes.trailing.iter());
                    rung.children.push(Node { comments: own, blank: false, ..node });
                    out.push(rung);
                }
            }
        }
        out.iter_mut().take(1).for_each(|first| first.blank = false);
        let mut behind: Vec<Span> = Vec::new();
        for rung in out.iter_mut().rev() {
            let first: &[Token] = rung.children.first().map_or(&[], |first| &first.tokens);
            if let [Token::Sign("LD"), rest @ ..] = first {
                if let [Token::Value(_)] = rest {
                    rung.origins.clone_from(&behind);
                }
                behind.clear();
            } else {
                behind.extend(rung.children.iter().flat_map(Node::spans));
            }
        }
        out
    }

    fn instruction(&self, instr: &Instr) -> Node {
        let mut tokens: Vec<Token> = instr.label.iter().map(|label| Token::name(&label.text)).collect();
        tokens.extend(instr.label.is_some().then_some(Token::Sign(":")));
        let mut inner: Vec<&[Instr]> = Vec::new();
        operation(&mut tokens, &instr.kind, &mut inner);
        let shape = if inner.is_empty() { Shape::Instruction } else { Shape::Nested };
        let text = self.shown(instr.span, || {
            let mut text = String::new();
            let bare = Instr {
                notes: Notes::default(),
                label: instr.label.clone(),
                span: instr.span,
                kind: emptied(&instr.kind),
            };
            il::instructions(&mut text, &[bare], 0);
            text
        });
        let mut node = Node::new(shape, tokens, instr.span, text);
        node.children = inner.into_iter().flatten().map(|instr| self.instruction(instr)).collect();
        node.layout = node.children.is_empty().then(|| self.layout(instr.span));
        node.noted(&instr.notes)
    }
}

/// Whether an instruction takes nothing of the one above it.
fn begins(instr: &Instr) -> bool {
    instr.label.is_some()
        || match &instr.kind {
            InstrKind::Load(..)
            | InstrKind::Jump(When::Always, _)
            | InstrKind::Call(When::Always, _)
            | InstrKind::Return(When::Always)
            | InstrKind::Function(_, crate::model::FunctionForm::Formal) => true,
            InstrKind::Empty
            | InstrKind::Store(..)
            | InstrKind::Set(_)
            | InstrKind::Reset(_)
            | InstrKind::Not
            | InstrKind::Op(..)
            | InstrKind::Jump(..)
            | InstrKind::Call(..)
            | InstrKind::Return(_)
            | InstrKind::Function(..)
            | InstrKind::Pin(..)
            | InstrKind::Worded { .. } => false,
        }
}

fn operation<'i>(tokens: &mut Vec<Token>, kind: &'i InstrKind, inner: &mut Vec<&'i [Instr]>) {
    let negated = |tokens: &mut Vec<Token>, negated: bool| tokens.extend(negated.then_some(Token::Sign("NOT")));
    match kind {
        InstrKind::Empty => {}
        InstrKind::Load(not, value) => {
            tokens.push(Token::Sign("LD"));
            negated(tokens, *not);
            token::expr(tokens, value);
        }
        InstrKind::Store(not, to) => {
            tokens.push(Token::Sign("ST"));
            negated(tokens, *not);
            token::expr(tokens, to);
        }
        InstrKind::Set(to) | InstrKind::Reset(to) => {
            tokens.push(Token::Sign(if matches!(kind, InstrKind::Set(_)) { "S" } else { "R" }));
            token::expr(tokens, to);
        }
        InstrKind::Not => tokens.push(Token::Sign("NOT")),
        InstrKind::Op(op, not, operand) => {
            tokens.push(Token::Sign(op.function()));
            negated(tokens, *not);
            match operand {
                Operand::Expr(value) => token::expr(tokens, value),
                Operand::List(list) => {
                    tokens.push(Token::Sign("("));
                    inner.push(list);
                }
            }
        }
        InstrKind::Jump(when, label) => tokens.extend([Token::Sign(modified(*when, "JMP")), Token::name(&label.text)]),
        InstrKind::Return(when) => tokens.push(Token::Sign(modified(*when, "RET"))),
        InstrKind::Call(when, call) => {
            tokens.push(Token::Sign(modified(*when, "CAL")));
            token::call(tokens, call);
            inner.extend(lists(call));
        }
        InstrKind::Function(call, _) => {
            token::call(tokens, call);
            inner.extend(lists(call));
        }
        InstrKind::Pin(pin, instance) => {
            tokens.push(Token::part(&pin.text));
            token::expr(tokens, instance);
        }
        InstrKind::Worded { word, operands, list, .. } => {
            tokens.push(Token::part(&word.text));
            operands.iter().for_each(|operand| token::expr(tokens, operand));
            inner.extend(list.as_deref());
        }
    }
}

/// An instruction with nothing in its parentheses.
fn emptied(kind: &InstrKind) -> InstrKind {
    let mut out = kind.clone();
    match &mut out {
        InstrKind::Op(_, _, operand) => empty(operand),
        InstrKind::Call(_, call) | InstrKind::Function(call, _) => {
            for arg in &mut call.args {
                if let crate::model::Arg::Plain(operand) | crate::model::Arg::Input(_, operand) = arg {
                    empty(operand);
                }
            }
        }
        InstrKind::Worded { list, .. } => list.iter_mut().for_each(Vec::clear),
        InstrKind::Empty
        | InstrKind::Load(..)
        | InstrKind::Store(..)
        | InstrKind::Set(_)
        | InstrKind::Reset(_)
        | InstrKind::Not
        | InstrKind::Jump(..)
        | InstrKind::Return(_)
        | InstrKind::Pin(..) => {}
    }
    out
}

fn empty(operand: &mut Operand) {
    if let Operand::List(list) = operand {
        list.clear();
    }
}

/// Instructions in the arguments of a call.
fn lists(call: &crate::model::Call) -> impl Iterator<Item = &[Instr]> {
    use crate::model::Arg;
    call.args.iter().filter_map(|arg| match arg {
        Arg::Plain(Operand::List(list)) | Arg::Input(_, Operand::List(list)) => Some(list.as_slice()),
        Arg::Plain(Operand::Expr(_)) | Arg::Input(_, Operand::Expr(_)) | Arg::Output { .. } => None,
    })
}

/// A word with its modifier.
const fn modified(when: When, word: &'static str) -> &'static str {
    match (when, word.as_bytes()) {
        (When::Always, _) => word,
        (When::IfTrue, b"JMP") => "JMPC",
        (When::IfFalse, b"JMP") => "JMPCN",
        (When::IfTrue, b"CAL") => "CALC",
        (When::IfFalse, b"CAL") => "CALCN",
        (When::IfTrue, _) => "RETC",
        (When::IfFalse, _) => "RETCN",
    }
}

/// Tokens with blanks between them.
pub(super) fn words(tokens: &[Token]) -> String {
    let each = tokens.iter().map(|token| match token {
        Token::Name(text) | Token::Part(text) | Token::Value(text) => text.as_str(),
        Token::Sign(text) => text,
    });
    each.collect::<Vec<_>>().join(" ")
}

fn one_line(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}
