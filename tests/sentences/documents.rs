//! Documents of the exchange format.

use super::{Body, Text};

/// What stands in the interface of a program with an input `a` and an output `o`, and its body.
pub(super) const DOCS: &[Body] = &[
    (
        "",
        r#"<LD><coil localId="1"><position x="9" y="1"/><connectionPointIn><connection refLocalId="7"/></connectionPointIn><variable>o</variable></coil></LD>"#,
        &["5:11 error R09: nothing is connected to this coil", "5:71 error R09: there is no element 7 to connect to"],
    ),
    (
        "",
        r#"<LD><leftPowerRail localId="1"><position x="0" y="0"/></leftPowerRail><coil localId="2"><position x="9" y="1"/><connectionPointIn><connection refLocalId="1"/></connectionPointIn></coil></LD>"#,
        &["5:77 error R09: this coil names no variable"],
    ),
    (
        "",
        r#"<LD><leftPowerRail localId="1"><position x="0" y="0"/></leftPowerRail><coil localId="2"><position x="9" y="1"/><connectionPointIn><connection refLocalId="1"/></connectionPointIn><variable>a b</variable></coil></LD>"#,
        &["5:197 error R03: `b` is too much here"],
    ),
    (
        "",
        r#"<LD><leftPowerRail localId="1"><position x="0" y="0"/></leftPowerRail><contact localId="1"><position x="5" y="0"/><connectionPointIn><connection refLocalId="1"/></connectionPointIn><variable>a</variable></contact></LD>"#,
        &["5:77 error R09: localId 1 is given twice"],
    ),
    (
        "",
        r#"<FBD><inVariable localId="1"><position x="0" y="0"/><expression>a</expression></inVariable><continuation localId="2" name="hot"><position x="3" y="0"/></continuation><outVariable localId="3"><position x="9" y="0"/><connectionPointIn><connection refLocalId="2"/></connectionPointIn><expression>o</expression></outVariable></FBD>"#,
        &["5:98 error R09: there is no connector `hot`", "5:173 error R09: nothing is connected to this outVariable"],
    ),
    (
        "",
        r#"<FBD><connector localId="1" name="hot"><position x="1" y="0"/><connectionPointIn><connection refLocalId="2"/></connectionPointIn></connector><continuation localId="2" name="hot"><position x="3" y="0"/></continuation><outVariable localId="3"><position x="9" y="0"/><connectionPointIn><connection refLocalId="2"/></connectionPointIn><expression>o</expression></outVariable></FBD>"#,
        &["5:88 error R09: connectors lead in a circle", "5:223 error R09: nothing is connected to this outVariable"],
    ),
    (
        "",
        r#"<FBD><inVariable localId="1"><position x="0" y="0"/><expression>a</expression></inVariable><actionBlock localId="2"><position x="3" y="0"/></actionBlock></FBD>"#,
        &["5:98 error R09: <actionBlock> is not read here"],
    ),
    (
        "",
        r#"<FBD><inVariable localId="1"><position x="0" y="0"/><expression>a</expression></inVariable><block localId="2" typeName="AND"><position x="3" y="0"/><inputVariables><variable formalParameter="IN1" edge="rising"><connectionPointIn><connection refLocalId="1"/></connectionPointIn></variable></inputVariables><inOutVariables/><outputVariables><variable formalParameter=""><connectionPointOut/></variable></outputVariables></block></FBD>"#,
        &["5:171 error R09: an edge at an input is not supported; use an edge contact or an R_TRIG"],
    ),
    (
        "",
        r#"<FBD><block localId="2"><position x="3" y="0"/></block></FBD>"#,
        &["5:12 error R09: <block> has no typeName"],
    ),
    (
        "",
        r#"<FBD><jump localId="2"><position x="3" y="0"/><connectionPointIn><connection refLocalId="1"/></connectionPointIn></jump><inVariable localId="1"><position x="0" y="0"/><expression>a</expression></inVariable></FBD>"#,
        &["5:12 error R09: <jump> has no label"],
    ),
    ("", "<SFC/>", &["5:7 error R06: bodies in SFC are not supported"]),
    (
        "",
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := b;</xhtml></ST>"#,
        &["5:60 error C01: unknown name `b` | declare it; `check --declare` writes the declaration of `b`"],
    ),
    (
        "",
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := ;</xhtml></ST>"#,
        &["5:60 error R03: expected a value, found `;`"],
    ),
    ("", "<ST>o := a;</ST>", &[]),
    (
        "",
        "<IL><xhtml xmlns=\"http://www.w3.org/1999/xhtml\">LD a\nST p</xhtml></IL>",
        &["6:4 error C01: `p` is a PROGRAM, not a variable"],
    ),
    (
        r#"<localVars><variable name="n"/></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:203 error R09: variable `n` has no type that can be read"],
    ),
    (
        "<localVars><variable><type><BOOL/></type></variable></localVars>",
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:203 error R09: <variable> has no name"],
    ),
    (
        r#"<localVars><variable name="two words"><type><BOOL/></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:219 warning H01: `two words` is never used"],
    ),
    (
        r#"<localVars><variable name="n"><type><wstring/></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:203 error R09: variable `n` has no type that can be read", "4:228 error R06: <wstring> is not supported"],
    ),
    (
        r#"<localVars><variable name="n"><type><pointer><baseType><INT/></baseType></pointer></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:203 error R09: variable `n` has no type that can be read", "4:228 error R06: <pointer> is not supported"],
    ),
    (
        r#"<localVars><variable name="n"><type><FISH/></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:229 error C03: there is no type or function block `FISH`"],
    ),
    (
        r#"<localVars><variable name="n"><type><array><dimension lower="5" upper="1"/><baseType><INT/></baseType></array></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:222 error C05: a dimension of this array is empty"],
    ),
    (
        r#"<localVars><variable name="n"><type><array><dimension lower="x" upper=""/><baseType><INT/></baseType></array></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:203 error R09: variable `n` has no type that can be read", "4:232 error R03: expected a value, found `]`"],
    ),
    (
        r#"<localVars><variable name="n"><type><INT/></type><initialValue><simpleValue value="TRUE"/></initialValue></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:275 error C04: this is BOOL, but INT is needed | convert it: BOOL_TO_INT(...)"],
    ),
    (
        r#"<localVars><variable name="n"><type><INT/></type><initialValue><simpleValue value="1 2"/></initialValue></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:277 error R03: `2` is too much here"],
    ),
    (
        r#"<localVars><variable name="n" address="%QQ9"><type><INT/></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &[
            "4:219 error C12: `%QQ9` is not an address | an address is %, the area I, Q or M, a size X, B, W, D or L, and numbers with dots: %IX0.0",
        ],
    ),
    (
        r#"<localVars><variable name="n"><type><subrangeSigned><range lower="9" upper="1"/><baseType><INT/></baseType></subrangeSigned></type></variable></localVars>"#,
        r#"<ST><xhtml xmlns="http://www.w3.org/1999/xhtml">o := a;</xhtml></ST>"#,
        &["4:222 error C05: the range 9..1 is empty"],
    ),
];

/// Units of a document.
pub(super) const POUS: &[Text] = &[
    (
        r#"<pou name="P" pouType="action"><body><ST><xhtml xmlns="http://www.w3.org/1999/xhtml">;</xhtml></ST></body></pou>"#,
        &["4:1 error R09: pouType is program, function or functionBlock"],
    ),
    (
        r#"<pou pouType="program"><body><ST><xhtml xmlns="http://www.w3.org/1999/xhtml">;</xhtml></ST></body></pou>"#,
        &["4:1 error R09: <pou> has no name"],
    ),
    (
        r#"<pou name="P" pouType="program"><actions><action name="A"/></actions><body><ST><xhtml xmlns="http://www.w3.org/1999/xhtml">;</xhtml></ST></body></pou>"#,
        &["4:33 error R06: <actions> are not supported"],
    ),
    (
        r#"<pou name="P" pouType="program"><body><ST><xhtml xmlns="http://www.w3.org/1999/xhtml">;</xhtml></ST></body><body><ST><xhtml xmlns="http://www.w3.org/1999/xhtml">;</xhtml></ST></body></pou>"#,
        &["4:108 error R09: `P` has more than one body"],
    ),
    (
        r#"<pou name="F" pouType="function"><interface/><body><ST><xhtml xmlns="http://www.w3.org/1999/xhtml">F := 1;</xhtml></ST></body></pou>"#,
        &[
            "4:12 error R03: a function needs a type for its value | write `FUNCTION F : BOOL`, or make it a FUNCTION_BLOCK",
            "4:12 error R09: function `F` has no type for its value",
            "4:100 error C01: `F` is a FUNCTION, not a variable",
        ],
    ),
    (r#"<pou name="P" pouType="program"><interface/></pou>"#, &[]),
    (r#"<pou name="P" pouType="program"><interface/><body/></pou>"#, &[]),
    ("", &[]),
];
