//! Documents of the exchange format that others wrote: read in their order and with their means, and handed back with
//! all that means nothing here.

use crate::common::{exchanged, machine, trace, translated};
use honest_twin::lang::{Form, Language, read_project};
use honest_twin::source::Source;

const ELSEWHERE: &str = include_str!("../exchange/from_elsewhere.xml");

#[test]
fn a_document_from_elsewhere_is_read() {
    let stimulus = "time_ms,A,B,C\n0,0,0,0\n10,1,0,1\n20,0,1,1\n30,0,0,1\n40,0,0,0\n";
    let (found, fault) = trace(&machine("elsewhere", ELSEWHERE, Form::Exchange), stimulus, 5);
    assert_eq!(fault, None);
    // X takes A alone, Y neither A nor B, Due the opposite of the timer, worked out by hand.
    let expected = "scan,time_ms,A,B,C,X,Y,Due,Now\n0,0,0,0,0,0,1,1,Rest\n1,10,1,0,1,1,0,1,Rest\n2,20,0,1,1,0,0,1,Rest\n\
                    3,30,0,0,1,0,1,0,Rest\n4,40,0,0,0,0,1,1,Rest\n";
    assert_eq!(found, expected);
    insta::assert_snapshot!("from_elsewhere", translated("elsewhere", ELSEWHERE, Form::Exchange, Language::Ld));
}

#[test]
fn what_means_nothing_here_is_handed_back() {
    let again = exchanged("elsewhere", ELSEWHERE, Form::Exchange, Language::Ld);
    for kept in [
        "productName=\"Drawing board\"",
        "<ns:data name=\"note\">kept</ns:data>",
        "<ns:data name=\"shade\">blue</ns:data>",
        "a bell",
        "<paper>A3</paper>",
        "x=\"100\" y=\"80\"",
        "Air &amp; heat",
        "<project xmlns=\"http",
    ] {
        assert!(again.contains(kept), "{kept} is lost\n{again}");
    }
    assert_eq!(again, exchanged("again", &again, Form::Exchange, Language::Ld));
}

#[test]
fn what_is_wrong_in_a_document_is_told_at_its_place() {
    let body = |inside: &str| {
        format!(
            "<project><types><pous><pou name=\"P\" pouType=\"program\"><interface><localVars><variable name=\"x\"><type>\
             <BOOL/></type></variable></localVars></interface><body>{inside}</body></pou></pous></types></project>"
        )
    };
    let said = |text: &str| -> String {
        let (project, problems) = read_project(vec![(Source::new("p.xml", text), Form::Exchange)]);
        let all = honest_twin::check::verify(project, problems).1;
        all.0.iter().map(|p| format!("{} {}\n", p.code.0, p.message)).collect()
    };
    let coil = "<coil localId=\"2\"><position x=\"9\" y=\"1\"/><connectionPointIn><connection refLocalId=\"7\"/>\
                </connectionPointIn><variable>x</variable></coil>";
    for (text, says) in [
        ("<project".to_string(), "this is no XML"),
        ("<drawing/>".to_string(), "is no project of the exchange format"),
        (body("<SFC/>"), "bodies in SFC are not supported"),
        (body("<ST><xhtml>x := 1 +;</xhtml></ST>"), "expected"),
        (body(&format!("<LD>{coil}</LD>")), "there is no element 7 to connect to"),
        (body(&format!("<LD>{coil}</LD>")), "nothing is connected to this coil"),
        (body("<LD><block localId=\"1\"/></LD>"), "<block> has no typeName"),
        (body("<FBD><inVariable localId=\"1\"/></FBD>"), "this inVariable names no variable"),
    ] {
        let found = said(&text);
        assert!(found.contains(says), "{text}: {found}");
    }
}

/// That document has a prefix on each element; others have none.
#[test]
fn a_namespace_may_have_a_prefix_or_none() {
    let plain = ELSEWHERE.replace("<ns:", "<").replace("</ns:", "</").replace("xmlns:ns=", "xmlns=");
    assert!(ELSEWHERE.contains("<ns:pou ") && plain.contains("<pou ") && !plain.contains("ns:pou"), "{plain}");
    for language in [Language::St, Language::Ld] {
        let written = |text: &str| translated("elsewhere", text, Form::Exchange, language);
        assert_eq!(written(&plain), written(ELSEWHERE));
    }
}
