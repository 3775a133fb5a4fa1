//! Nets and plans that are broken on purpose: the verifiers name each flaw.
#![allow(clippy::unwrap_used, reason = "a test may fail loudly")]

use super::net::{Gate, InputId, Net, Node, RegId};
use super::plan::{Plan, plan};
use super::verify::{NetFlaw, PlanFlaw};
use crate::model::IntShape;

const SHAPE: IntShape = IntShape { bits: 16, signed: true };

/// A counter of pulses that stops at a limit, and whether it is there.
fn net() -> (Net, Node) {
    let mut net = Net::default();
    let pulse = net.input((0, 1), 1);
    let limit = net.input((1, 900), 1);
    let (id, count) = net.register(0, true, false);
    let one = net.constant(1);
    let more = net.add(Gate::Add(SHAPE, count, one));
    let room = net.add(Gate::Less(count, limit));
    let counts = net.and(pulse, room);
    net.registers[id.0 as usize].next = net.mux(counts, more, count);
    let full = net.not(room);
    (net, full)
}

fn net_flaw(change: impl FnOnce(&mut Net) -> NetFlaw) {
    let (mut broken, _) = net();
    assert_eq!(broken.verify(), Ok(()));
    let expected = change(&mut broken);
    assert_eq!(broken.verify(), Err(expected));
}

#[test]
fn each_flaw_of_a_net_is_named() {
    let position = |net: &Net, is: fn(&Gate) -> bool| net.gates.iter().position(is).unwrap();
    net_flaw(|net| {
        let at = position(net, |gate| matches!(gate, Gate::Less(..)));
        net.gates[at] = Gate::Less(Node(at as u32), Node(0));
        NetFlaw::Order(at)
    });
    net_flaw(|net| {
        let at = position(net, |gate| matches!(gate, Gate::Less(..)));
        net.gates[at] = Gate::Below(Node(0), Node(1));
        NetFlaw::Shared(at)
    });
    net_flaw(|net| {
        let at = position(net, |gate| matches!(gate, Gate::Reg(_)));
        net.registers.clear();
        NetFlaw::Number(at)
    });
    net_flaw(|net| {
        let at = position(net, |gate| matches!(gate, Gate::Reg(_)));
        net.registers[0].bool = true;
        NetFlaw::Bool(at)
    });
    net_flaw(|net| {
        net.registers[0].next = Node(net.gates.len() as u32);
        NetFlaw::Next(0)
    });
    net_flaw(|net| {
        let (id, _) = net.register(2, false, true);
        NetFlaw::Begin(id.0 as usize)
    });
    net_flaw(|net| {
        net.registers[0].per = 0;
        NetFlaw::Unit(0)
    });
    net_flaw(|net| {
        net.inputs[1].range = (5, 4);
        NetFlaw::Input(1)
    });
    net_flaw(|net| {
        net.inputs[0].step = 0;
        NetFlaw::Input(0)
    });
}

fn plan_flaw(change: impl FnOnce(&mut Plan) -> PlanFlaw) {
    let (mut net, full) = net();
    let mut broken = plan(&mut net, &[full]);
    assert_eq!(broken.verify(), Ok(()));
    let expected = change(&mut broken);
    assert_eq!(broken.verify(), Err(expected));
}

#[test]
fn each_flaw_of_a_plan_is_named() {
    plan_flaw(|plan| {
        plan.constants = vec![true; plan.bits + 1];
        PlanFlaw::Constants { constants: plan.bits + 1, bits: plan.bits }
    });
    plan_flaw(|plan| {
        plan.inputs[1].1 = plan.inputs[0].1;
        PlanFlaw::Input(1)
    });
    plan_flaw(|plan| {
        plan.registers[0].place.at = plan.bits as u32;
        PlanFlaw::Register(0)
    });
    plan_flaw(|plan| {
        plan.registers[0].init = plan.registers[0].most + 1;
        PlanFlaw::Begin(0)
    });
    plan_flaw(|plan| {
        let last = plan.steps.len() - 1;
        plan.steps[0].a = plan.steps[last].d;
        PlanFlaw::Unwritten(0)
    });
    plan_flaw(|plan| {
        plan.steps[0].d = plan.registers[0].place;
        PlanFlaw::Written(0)
    });
    plan_flaw(|plan| {
        let at = plan.steps.iter().position(|step| matches!(step.act, super::plan::Act::Less)).unwrap();
        plan.steps[at].d.width = 0;
        PlanFlaw::Width(at)
    });
    plan_flaw(|plan| {
        plan.registers[0].next.at = plan.bits as u32;
        PlanFlaw::Next(0)
    });
    plan_flaw(|plan| {
        plan.runs.pop();
        PlanFlaw::Runs
    });
}

/// A gate is told by its operands: another gate over the same ones is another one, the same gate is found again, and
/// every gate that reads anything can be led to other operands.
#[test]
fn gates_are_known_by_what_they_compute() {
    let (mut net, _) = net();
    for at in 0..net.gates.len() {
        let gate = net.gates[at];
        assert_eq!(net.put(gate), Node(at as u32));
        let moved = gate.over(|n| Node(n.0 + 100));
        let operands: Vec<u32> = gate.operands().map(|n| n.0 + 100).collect();
        assert_eq!(moved.operands().map(|n| n.0).collect::<Vec<_>>(), operands);
        assert_eq!(moved == gate, operands.is_empty());
    }
    assert_eq!(net.gate(Node(0)), Gate::Input(InputId(0)));
    assert_eq!(net.registers[RegId(0).0 as usize].per, 1);
}
