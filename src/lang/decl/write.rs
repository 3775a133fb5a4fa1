//! Writing declarations.

use crate::lang::st::{expression, indentation, put, separated};
use crate::lang::written::{body, comments, end_line, leading};
use crate::model::{Configuration, Edge, Expr, Init, Item, Retain, TypeDecl, TypeSpec, Unit, VarDecl, VarSection};

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
    out.extend(["    ", &decl.name.text, " : "]);
    spec(out, &decl.spec, 1);
    begins_with(out, decl.init.as_ref());
    out.push(';');
    end_line(out, &decl.notes);
    out.push_str("END_TYPE\n");
}

fn unit(out: &mut String, unit: &Unit) {
    comments(out, &unit.notes.leading, "");
    out.extend([unit.kind.word(), " ", &unit.name.text]);
    if let Some(result) = &unit.result {
        out.push_str(" : ");
        spec(out, result, 0);
    }
    end_line(out, &unit.notes);
    for section in &unit.sections {
        var_section(out, section, "");
    }
    out.push('\n');
    body(out, &unit.body);
    out.extend(["END_", unit.kind.word(), "\n"]);
}

/// Writes a variable section.
fn var_section(out: &mut String, section: &VarSection, indent: &str) {
    leading(out, &section.notes, indent);
    out.extend([indent, section.section.word()]);
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
        if index > 0 {
            leading(out, &var.notes, &inner);
        } else {
            comments(out, &var.notes.leading, &inner);
        }
        out.push_str(&inner);
        var_decl(out, var, 1);
        end_line(out, &var.notes);
    }
    comments(out, &section.tail, &inner);
    out.extend([indent, "END_VAR\n"]);
}

fn var_decl(out: &mut String, var: &VarDecl, level: usize) {
    let place = var.address.as_ref().map(|address| &address.text);
    match (place, var.names.as_slice()) {
        // What has no name but its place.
        (Some(place), [name]) if name.text == *place => out.extend(["AT ", place]),
        (place, names) => {
            separated(out, names, ", ", |out, name| out.push_str(&name.text));
            if let Some(place) = place {
                out.extend([" AT ", place]);
            }
        }
    }
    out.push_str(" : ");
    spec(out, &var.spec, level);
    match var.edge {
        Some(Edge::Rising) => out.push_str(" R_EDGE"),
        Some(Edge::Falling) => out.push_str(" F_EDGE"),
        None => {}
    }
    begins_with(out, var.init.as_ref());
    out.push(';');
}

fn spec(out: &mut String, spec_: &TypeSpec, level: usize) {
    match spec_ {
        TypeSpec::Elem(elem, _) => out.push_str(elem.name()),
        TypeSpec::String(None, _) => out.push_str("STRING"),
        TypeSpec::String(Some(length), _) => {
            out.push_str("STRING[");
            put(out, length);
            out.push(']');
        }
        TypeSpec::Named(name) => out.push_str(&name.text),
        TypeSpec::Range(elem, low, high, _) => {
            out.extend([elem.name(), " ("]);
            bounds(out, low, high);
            out.push(')');
        }
        TypeSpec::Enum(base, values, _) => {
            if let Some(base) = base {
                out.extend([base.name(), " "]);
            }
            out.push('(');
            separated(out, values, ", ", |out, (name, value)| {
                out.push_str(&name.text);
                if let Some(value) = value {
                    out.push_str(" := ");
                    put(out, value);
                }
            });
            out.push(')');
        }
        TypeSpec::Array(dimensions, of, _) => {
            out.push_str("ARRAY [");
            separated(out, dimensions, ", ", |out, (low, high)| bounds(out, low, high));
            out.push_str("] OF ");
            spec(out, of, level);
        }
        TypeSpec::Struct(fields, _) => {
            let pad = indentation(level + 1);
            out.push_str("STRUCT\n");
            for field in fields {
                comments(out, &field.notes.leading, &pad);
                out.push_str(&pad);
                var_decl(out, field, level + 1);
                end_line(out, &field.notes);
            }
            out.extend([&indentation(level), "END_STRUCT"]);
        }
    }
}

fn bounds(out: &mut String, low: &Expr, high: &Expr) {
    put(out, low);
    out.push_str("..");
    put(out, high);
}

fn begins_with(out: &mut String, value: Option<&Init>) {
    if let Some(value) = value {
        out.push_str(" := ");
        init(out, value);
    }
}

fn init(out: &mut String, value: &Init) {
    match value {
        Init::Expr(expr) => put(out, expr),
        Init::Array(values, _) => {
            out.push('[');
            separated(out, values, ", ", |out, (times, value)| {
                if *times == 1 {
                    init(out, value);
                } else {
                    out.push_str(&format!("{times}("));
                    init(out, value);
                    out.push(')');
                }
            });
            out.push(']');
        }
        Init::Struct(fields, _) => {
            out.push('(');
            separated(out, fields, ", ", |out, (name, value)| {
                out.extend([&name.text, " := "]);
                init(out, value);
            });
            out.push(')');
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
