using System.Globalization;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Core.Simulation;

public sealed partial class BenchPlan
{
    /// <summary>Why nothing can be proved here: no goal speaks of what is in the scene; null where one does.</summary>
    public string? Unproved { get; private set; }

    private sealed partial class Builder
    {
        private readonly List<BenchRule> rules = [];

        // Why a condition cannot be judged here, while one is bound.
        private string? unjudged;

        private void Rules()
        {
            for (var p = 0; p < running.Count; p++)
            {
                // Guests have goals of their own, which are not this scene's; where rigs are held against each other, nobody's count.
                if (running[p].Rig != 0 || plan.Model.SceneRulesOnly)
                    continue;
                var program = running[p].Program.Parsed.Program;
                foreach (var rule in program.Head.OfType<RuleNode>())
                    rules.Add(Rule(rule, p, program, false, rule.Span.Line));
            }
            foreach (var line in scene.All("goal").Concat(scene.All("never")))
                rules.Add(Rule((RuleNode)line.Values["rule"], null, null, true, line.Line));
            var scores = new List<ScoreSpec>();
            foreach (var line in scene.Lines)
                switch (line.Key)
                {
                    case "score when":
                        scores.Add(new(line.Value("x")!.Value, Cond((ExprNode)line.Values["cond"], null), false, [], default, -1, -1));
                        break;
                    case "score left":
                        scores.Add(new(line.Value("x")!.Value, null, true, [], default, -1, -1));
                        break;
                    case "score each":
                        scores.Add(
                            new(
                                line.Value("x")!.Value,
                                null,
                                false,
                                ThingsOf(line.Name("what")!),
                                line.Has("on") ? WorldFact.On
                                    : line.Has("off") ? WorldFact.Off
                                    : WorldFact.In,
                                Place(line.Name("place")),
                                Feed(line.Name("what")!)
                            )
                        );
                        break;
                }
            plan.Scores = [.. scores];
            plan.Rules = rules;
            found.AddRange(
                rules
                    .Where(r => r.Unjudged is not null)
                    .Select(r => new SceneFinding(
                        r.FromScene ? r.Line : 0,
                        "goal-unjudged",
                        $"“{r.Text}” does not count here: {r.Unjudged}"
                    ))
            );
            if (!rules.Any(r => r.IsGoal && r.Unjudged is null))
                plan.Unproved =
                    rules.FirstOrDefault(r => r.IsGoal)?.Unjudged is { } why ? $"No goal can be judged in this scene: {why}"
                    : rules.Any(r => r.Unjudged is null) ? null
                    : "Nothing is asked of a run here: write a goal in the program or in the scene.";
            Compiled();
        }

        private BenchRule Rule(RuleNode rule, int? p, ProgramNode? program, bool fromScene, int line)
        {
            var text = Printer.Plain(Printer.Pieces(rule));
            ExprNode asked = rule.Condition switch
            {
                ConditionKind.StoppedOver => new WorldNode(WorldFact.StoppedOver) { Place = rule.Place },
                ConditionKind.Finished => new WorldNode(WorldFact.Finished),
                ConditionKind.MovingAfter => new WorldNode(WorldFact.MovingAfter) { Amount = rule.Time },
                ConditionKind.OverEdge => new WorldNode(WorldFact.OverEdge) { Subject = "robot" },
                ConditionKind.PastStop => new WorldNode(WorldFact.PastStop) { Subject = rule.Subject, Place = rule.Place },
                ConditionKind.LoadOn => new WorldNode(WorldFact.On) { Subject = rule.Subject, Place = rule.Place },
                _ => rule.Holds!,
            };
            unjudged = null;
            var cond = Cond(asked, p);
            var limit =
                rule.Condition == ConditionKind.MovingAfter || rule.Time is null
                    ? long.MaxValue
                    : (long)Math.Round(Time(rule.Time, program) * 1e6);
            return new(text, rule.IsGoal, fromScene, line)
            {
                Cond = cond,
                Clock = rule.Clock,
                Micros = limit,
                OnceFor = rule.OnceFor,
                Unjudged = unjudged,
            };
        }

        // A limit may be written with variables; it means their values at the start.
        private static double Time(ExprNode time, ProgramNode? program)
        {
            if (Analysis.Constant(time) is { } constant)
                return constant;
            var values = new Dictionary<string, ExprNode>();
            foreach (var head in program?.Head ?? [])
                if (head is VarNode v)
                    values[v.Name] = Replace(v.Value, values);
                else if (head is ConstNode c)
                    values[c.Name] = Replace(c.Value, values);
            return Analysis.Constant(Replace(time, values))
                ?? throw new InputProblem(
                    "program",
                    $"The time “{Printer.Print(time)}” is too complicated for a goal; write it as a number."
                );
        }

        private static ExprNode Replace(ExprNode node, Dictionary<string, ExprNode> values) =>
            node switch
            {
                VariableNode v when values.TryGetValue(v.Name, out var value) => value,
                BinaryNode b => b with { Left = Replace(b.Left, values), Right = Replace(b.Right, values) },
                UnaryNode u => u with { Operand = Replace(u.Operand, values) },
                _ => node,
            };

        private Cond Cond(ExprNode node, int? p)
        {
            switch (node)
            {
                case BinaryNode { Operator: Operator.And or Operator.Or } b when Worldly(b):
                    return new()
                    {
                        Kind = b.Operator == Operator.And ? Simulation.Cond.Op.And : Simulation.Cond.Op.Or,
                        A = Cond(b.Left, p),
                        B = Cond(b.Right, p),
                        Say = Printer.Print(b),
                    };
                case UnaryNode { IsNot: true } u when Worldly(u):
                    return new()
                    {
                        Kind = Simulation.Cond.Op.Not,
                        A = Cond(u.Operand, p),
                        Say = Printer.Print(u),
                    };
                case WorldNode w:
                    return Fact(w);
                case BinaryNode { Operator: Operator.And or Operator.Or } b when p is null && Owner(b) is null:
                    // Two programs' own: each is asked for its part.
                    return new()
                    {
                        Kind = b.Operator == Operator.And ? Simulation.Cond.Op.And : Simulation.Cond.Op.Or,
                        A = Cond(b.Left, p),
                        B = Cond(b.Right, p),
                        Say = Printer.Print(b),
                    };
            }
            if ((p ?? Owner(node)) is not { } owner)
            {
                unjudged ??= $"no program knows “{Printer.Print(node)}”.";
                return new() { Kind = Simulation.Cond.Op.Unknown, Say = Printer.Print(node) };
            }
            running[owner].Asked.Add(node);
            return new()
            {
                Kind = Simulation.Cond.Op.Asked,
                Program = owner,
                Rule = running[owner].Rules + running[owner].Asked.Count - 1,
                Say = Printer.Print(node),
            };
        }

        private static bool Worldly(ExprNode node) =>
            node switch
            {
                WorldNode => true,
                BinaryNode b => Worldly(b.Left) || Worldly(b.Right),
                UnaryNode u => Worldly(u.Operand),
                _ => false,
            };

        // The program that knows every name of a condition: the first of them.
        private int? Owner(ExprNode node)
        {
            for (var p = 0; p < running.Count; p++)
                if (Knows(running[p], node))
                    return p;
            return null;
        }

        private static bool Knows(Running run, ExprNode node)
        {
            var program = run.Program.Parsed.Program;
            bool Region(string name, string state) =>
                program
                    .Regions.SelectMany(r => r.AllStates.SelectMany(s => s.Regions).Prepend(r))
                    .Any(r => r.Name == name && r.AllStates.Any(s => s.Name == state));
            return node switch
            {
                InStateNode s => Region(s.Region, s.State),
                VariableNode v => program.Head.Any(h => h is VarNode x && x.Name == v.Name || h is ConstNode c && c.Name == v.Name),
                ZoneIsNode z => run.Words.Sensors.Any(s => s.Name == z.Sensor),
                ReadingNode r => run.Words.Sensors.Any(s => s.Name == r.Sensor),
                SilentNode s => run.Words.Sensors.Any(x => x.Name == s.Sensor),
                CannotTellNode c => run.Words.Sensors.Any(x => x.Name == c.Sensor),
                DoneNode { Device: { } d } => run.Words.Commanded.Contains(d),
                GivenUpNode g => run.Words.Commanded.Contains(g.Device),
                PropertyNode { Kind: PropertyKind.Zone } q => run.Words.Sensors.Any(s => s.Name == q.Of),
                PropertyNode { Kind: PropertyKind.Length } q => program.Head.Any(h => h is VarNode x && x.Name == q.Of),
                PropertyNode q => run.Words.Commanded.Contains(q.Of),
                HoldsNode h => program.Head.Any(x => x is VarNode v && v.Name == h.Queue) && Knows(run, h.Value),
                BinaryNode b => Knows(run, b.Left) && Knows(run, b.Right),
                UnaryNode u => Knows(run, u.Operand),
                CallNode c => c.Arguments.All(a => Knows(run, a)),
                _ => true,
            };
        }

        private int Feed(string name)
        {
            if (plan.Belt is not { } belt)
                return -1;
            var thing = SceneWords.Thing(scene, name);
            return Array.FindIndex(belt.Feeds, f => f.Name == thing);
        }

        private Cond Fact(WorldNode w)
        {
            var say = Printer.Print(w);
            Cond None(string why)
            {
                unjudged ??= why;
                return new() { Kind = Simulation.Cond.Op.Unknown, Say = say };
            }
            var rig = rigs[0].Copy.Rig;
            var subject = w.Subject;
            var drive =
                subject is null ? -1
                : subject is "robot" || subject == rig.Name ? drives.FindIndex(d => d.Rig == 0)
                : drives.FindIndex(d => d.Name == subject || d.Rig == 0 && d.Names.Contains(subject));
            // A guest is meant by its own name.
            if (drive < 0 && subject is not null && rigs.FindIndex(r => r.As == subject) is > 0 and var guest)
                drive = drives.FindIndex(d => d.Rig == guest);
            var vehicle =
                subject is null ? -1
                : vehicles.FindIndex(v => v.Name == subject || movers[v.Mover].Motor == subject) is >= 0 and var own ? own
                : subject is "robot" || subject == rig.Name ? (vehicles.Count > 0 ? 0 : -1)
                : -1;
            var axis = subject is null ? -1 : axes.FindIndex(a => a.Name == subject || movers[a.Mover].Motor == subject);
            var every = subject is "things" or "thing";
            var those =
                subject is null ? []
                : every ? [.. Enumerable.Range(0, things.Count)]
                : ThingsOf(subject);
            var feed =
                subject is null ? -1
                : every && plan.Belt is { Feeds.Length: > 0 } ? int.MaxValue
                : Feed(subject);
            var asks = subject is null ? [] : AsksOf(subject);
            var place = w.Fact
                is WorldFact.StoppedOver
                    or WorldFact.On
                    or WorldFact.Off
                    or WorldFact.In
                    or WorldFact.WhollyOn
                    or WorldFact.Touching
                    or WorldFact.Near
                ? Place(w.Place)
                : -1;
            var onBelt = w.Place is "the belt" or "belt" && plan.Belt is not null;
            var need =
                w.Fact
                is WorldFact.StoppedOver
                    or WorldFact.On
                    or WorldFact.Off
                    or WorldFact.In
                    or WorldFact.WhollyOn
                    or WorldFact.Touching
                    or WorldFact.Near;
            if (need && place < 0 && !onBelt)
                return None($"there is no place “{w.Place}” in it.");
            if (need && w.Fact is not WorldFact.StoppedOver && drive < 0 && vehicle < 0 && those.Length == 0 && feed < 0)
                return None($"there is no “{subject}” in it.");
            var output = -1;
            var sense = -1;
            switch (w.Fact)
            {
                case WorldFact.StoppedOver when vehicles.Count == 0 && drives.Count == 0:
                    return None("nothing drives in it.");
                case WorldFact.StoppedOver when subject is not null && vehicle < 0 && drive < 0:
                    return None($"there is no “{subject}” in it.");
                case WorldFact.OverEdge when drive < 0 || !plan.IsDeck:
                    return None("it has no deck with an edge.");
                case WorldFact.AtPosition
                or WorldFact.PastStop
                or WorldFact.Turned when axis < 0 && !(w.Fact == WorldFact.Turned && (vehicle >= 0 || drive >= 0)):
                    return None($"“{subject}” does not move by a motor.");
                case WorldFact.AtPosition when !axes[axis].Positions.ContainsKey(w.Place!):
                    return None($"{w.Place} of {subject} was never found on this copy.");
                case WorldFact.Lamp or WorldFact.Sounds or WorldFact.Shows:
                    output = outputs.FindIndex(o => o.Name == subject || o.Name == $"lamp of {subject}");
                    if (output < 0 && w.Fact == WorldFact.Sounds)
                        output = outputs.FindIndex(o => o.Kind == ActuatorKind.Sounder);
                    if (output < 0)
                        return None($"there is no “{subject}” on this rig.");
                    break;
                case WorldFact.LevelAbove or WorldFact.LevelBelow when plan.Tank is null || plan.Tank.Name != subject:
                    return None($"there is no tank “{subject}” in it.");
                case WorldFact.Before:
                    sense = senses.FindIndex(s => s.Name == w.Place);
                    if (sense < 0 || those.Length == 0 && ComesOf(subject!, sense).Length == 0)
                        return None(sense < 0 ? $"there is no sensor “{w.Place}”." : $"there is no “{subject}” in it.");
                    break;
                case WorldFact.Through when asks.Length == 0:
                    return None($"nobody called “{subject}” asks for anything in it.");
            }
            return new()
            {
                Kind = Simulation.Cond.Op.Fact,
                Fact = w.Fact,
                Many = w.Many,
                Count = w.Count is null ? 0 : int.Parse(w.Count, CultureInfo.InvariantCulture),
                Things = w.Fact == WorldFact.Through ? asks : those,
                Feed = feed,
                Comes = w.Fact == WorldFact.Before ? ComesOf(subject!, sense) : [],
                Drive = drive,
                Vehicle = vehicle,
                Axis = axis,
                Output = output,
                Sense = sense,
                Place = onBelt ? -2 : place,
                Text = w.Text ?? w.Place ?? "",
                Amount = w.Amount is null ? 0 : HowFar(w, axis, vehicle),
                Say = say,
            };
        }

        private double HowFar(WorldNode w, int axis, int vehicle)
        {
            var value =
                Analysis.Constant(w.Amount!)
                ?? throw new InputProblem("program", $"“{Printer.Print(w.Amount!)}” is too complicated here; write it as a number.");
            if (w.Fact != WorldFact.Turned || axis < 0 && vehicle < 0)
                return value;
            var mover = movers[axis >= 0 ? axes[axis].Mover : vehicles[vehicle].Mover];
            return Measures.Of(w.Amount!, new("", [], [], [], [])) == Dimension.WheelAngle ? value / mover.PartDegPerUnit
                : axis >= 0 ? value
                : value / mover.DegPerUnit;
        }

        // Those who ask under a name: lines of the scene.
        private int[] AsksOf(string name) =>
            [
                .. happenings
                    .Select((h, i) => (h, i))
                    .Where(x =>
                        x.h.Deed == Simulation.People.Deed.Ask && Called(scene.Lines.First(l => l.Line == x.h.Line).Name("noun")!, name)
                    )
                    .Select(x => x.i),
            ];

        private int[] ComesOf(string name, int sense) =>
            [
                .. happenings
                    .Select((h, i) => (h, i))
                    .Where(x =>
                        x.h.Sense == sense
                        && (
                            x.h.Deed == Simulation.People.Deed.Comes
                                && Called(scene.Lines.First(l => l.Line == x.h.Line).Name("noun")!, name)
                            || x.h.Deed == Simulation.People.Deed.Hand
                                && Called(scene.Lines.First(l => l.Line == x.h.Line).Name("noun") ?? "hand", name)
                        )
                    )
                    .Select(x => x.i),
            ];

        private static bool Called(string noun, string name) => name == noun || name == noun + "s" || name == noun + "es";
    }
}
