//! Writing declarations.

use crate::lang::st::expression;
use crate::lang::written::{body, comments, end_line, leading};
use crate::model::{Configuration, Edge, Init, Item, Retain, TypeDecl, TypeSpec, Unit, VarDecl, VarSection};

/// Writes one item of a file.
pub(in crate::lang) fn item(out: &mut String, item: &Item) {
    match item {
        Item::Type(decl) => type_decl(out, decl),
        Item::Unit(u) => unit(out, u),
        Item::Globals(section) => var_section(out, section, ""),
        Item::Configuration(configuration) => write_configuration(out, configuration),
        // It belongs to the exchange format only.
        Item::Envelope(_) => {}
    }
}

fn type_decl(out: &mut String, decl: &TypeDecl) {
    // Declarations that follow each other share one TYPE.
    match out.strip_suffix("END_TYPE\n\n").filter(|_| decl.above.leading.is_empty()).map(str::len) {
        Some(length) => out.truncate(length),
        None => {
            comments(out, &decl.above.leading, "");
            out.push_str("TYPE\n");
        }
    }
    comments(out, &decl.notes.leading, "    ");
    out.push_str(&format!("    {} : {}", decl.name.text, spec(&decl.spec, 1)));
    if let Some(value) = &decl.init {
        out.push_str(&format!(" := {}", init(value)));
    }
    out.push(';');
    end_line(out, &decl.notes);
    out.push_str("END_TYPE\n");
}

fn unit(out: &mut String, unit: &Unit) {
    comments(out, &unit.notes.leading, "");
    out.push_str(&format!("{} {}", unit.kind.word(), unit.name.text));
    if let Some(result) = &unit.result {
        out.push_str(&format!(" : {}", spec(result, 0)));
    }
    end_line(out, &unit.notes);
    for section in &unit.sections {
        var_section(out, section, "");
    }
    out.push('\n');
    body(out, &unit.body);
    out.push_str(&format!("END_{}\n", unit.kind.word()));
}

/// Writes a variable section.
fn var_section(out: &mut String, section: &VarSection, indent: &str) {
    leading(out, &section.notes, indent);
    out.push_str(&format!("{indent}{}", section.section.word()));
    if section.constant {
        out.push_str(" CONSTANT");
    }
    match section.retain {
        Retain::Retain => out.push_str(" RETAIN"),
        Retain::NonRetain => out.push_str(" NON_RETAIN"),
        Retain::Unsaid => {}
    }
    end_line(out, &section.notes);
    let inner = format!("{indent}    ");
    for (index, var) in section.vars.iter().enumerate() {
        let mut notes = var.notes.clone();
        notes.blank_before &= index > 0;
        leading(out, &notes, &inner);
        out.push_str(&format!("{inner}{}", var_decl(var, 1)));
        end_line(out, &notes);
    }
    comments(out, &section.tail, &inner);
    out.push_str(&format!("{indent}END_VAR\n"));
}

fn var_decl(var: &VarDecl, level: usize) -> String {
    let names: Vec<&str> = var.names.iter().map(|n| n.text.as_str()).collect();
    let mut line = names.join(", ");
    if let Some(address) = &var.address {
        line = if line == address.text { format!("AT {line}") } else { format!("{line} AT {}", address.text) };
    }
    line.push_str(&format!(" : {}", spec(&var.spec, level)));
    match var.edge {
        Some(Edge::Rising) => line.push_str(" R_EDGE"),
        Some(Edge::Falling) => line.push_str(" F_EDGE"),
        None => {}
    }
    if let Some(value) = &var.init {
        line.push_str(&format!(" := {}", init(value)));
    }
    line.push(';');
    line
}

fn spec(spec_: &TypeSpec, level: usize) -> String {
    match spec_ {
        TypeSpec::Elem(elem, _) => elem.name().to_string(),
        TypeSpec::String(None, _) => "STRING".to_string(),
        TypeSpec::String(Some(length), _) => format!("STRING[{}]", expression(length)),
        TypeSpec::Named(name) => name.text.clone(),
        TypeSpec::Range(elem, low, high, _) => format!("{} ({}..{})", elem.name(), expression(low), expression(high)),
        TypeSpec::Enum(base, values, _) => {
            let list: Vec<String> = values
                .iter()
                .map(|(name, value)| match value {
                    Some(value) => format!("{} := {}", name.text, expression(value)),
                    None => name.text.clone(),
                })
                .collect();
            let base = base.map_or(String::new(), |b| format!("{} ", b.name()));
            format!("{base}({})", list.join(", "))
        }
        TypeSpec::Array(bounds, of, _) => {
            let list: Vec<String> =
                bounds.iter().map(|(low, high)| format!("{}..{}", expression(low), expression(high))).collect();
            format!("ARRAY [{}] OF {}", list.join(", "), spec(of, level))
        }
        TypeSpec::Struct(fields, _) => {
            let pad = "    ".repeat(level + 1);
            let mut text = "STRUCT\n".to_string();
            for field in fields {
                let mut notes = field.notes.clone();
                notes.blank_before = false;
                leading(&mut text, &notes, &pad);
                text.push_str(&format!("{pad}{}", var_decl(field, level + 1)));
                end_line(&mut text, &notes);
            }
            text.push_str(&format!("{}END_STRUCT", "    ".repeat(level)));
            text
        }
    }
}

fn init(value: &Init) -> String {
    match value {
        Init::Expr(expr) => expression(expr),
        Init::Array(values, _) => {
            let list: Vec<String> = values
                .iter()
                .map(|(times, value)| if *times == 1 { init(value) } else { format!("{times}({})", init(value)) })
                .collect();
            format!("[{}]", list.join(", "))
        }
        Init::Struct(fields, _) => {
            let list: Vec<String> =
                fields.iter().map(|(name, value)| format!("{} := {}", name.text, init(value))).collect();
            format!("({})", list.join(", "))
        }
    }
}

fn write_configuration(out: &mut String, configuration: &Configuration) {
    comments(out, &configuration.notes.leading, "");
    out.push_str(&format!("CONFIGURATION {}\n", configuration.name.text));
    for section in &configuration.globals {
        var_section(out, section, "    ");
    }
    if let Some((name, target)) = &configuration.resource {
        out.push_str(&format!("    RESOURCE {} ON {}\n", name.text, target.text));
    }
    for task in &configuration.tasks {
        comments(out, &task.notes.leading, "    ");
        let args: Vec<String> =
            task.args.iter().map(|(name, value)| format!("{} := {}", name.text, expression(value))).collect();
        out.push_str(&format!("    TASK {}({});", task.name.text, args.join(", ")));
        end_line(out, &task.notes);
    }
    for program in &configuration.programs {
        comments(out, &program.notes.leading, "    ");
        let with = program.task.as_ref().map_or(String::new(), |t| format!(" WITH {}", t.text));
        out.push_str(&format!("    PROGRAM {}{with} : {};", program.name.text, program.unit.text));
        end_line(out, &program.notes);
    }
    if configuration.resource.is_some() {
        out.push_str("    END_RESOURCE\n");
    }
    out.push_str("END_CONFIGURATION\n");
}
