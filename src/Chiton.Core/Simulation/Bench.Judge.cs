using Chiton.Core.Programs.Language;
using Chiton.Core.Simulation.Bodies;
using Chiton.Core.Simulation.People;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    private struct RuleState
    {
        public bool Reached,
            Broken,
            Was;
        public long Since;
        public int Times;
    }

    private readonly RuleState[] rules;
    private readonly bool[] scored;
    private bool decided,
        anyNever;
    private BenchResult verdict;
    private int goalsLeft,
        judged;

    private void StartRules()
    {
        (decided, verdict, crashes, anyNever, goalsLeft, judged) = (false, default, 0, false, 0, 0);
        Array.Clear(rules);
        Array.Clear(scored);
        doneAt = long.MaxValue;
        for (var r = 0; r < rules.Length; r++)
        {
            rules[r].Since = -1;
            if (plan.Rules[r].Unjudged is not null)
                continue;
            judged++;
            if (plan.Rules[r].IsGoal)
                goalsLeft++;
            else
                anyNever = true;
        }
    }

    /// <summary>True once pass or fail is certain.</summary>
    public bool IsDecided => decided;

    /// <summary>How it came out; where nothing was decided when it ended, a goal was missed.</summary>
    public BenchResult Result() => decided ? verdict : Told(RunEnding.GoalMissed, FirstMissed());

    private int FirstMissed()
    {
        for (var r = 0; r < rules.Length; r++)
            if (plan.Rules[r] is { IsGoal: true, Unjudged: null } && !rules[r].Reached)
                return r;
        return -1;
    }

    private BenchResult Told(RunEnding ending, int rule)
    {
        var (program, step) = (0, -1);
        for (var p = 0; p < network.Machines.Count; p++)
            if (network.Machines[p].LastStep >= 0 && (step < 0 || p == lastProgram))
                (program, step) = (p, network.Machines[p].LastStep);
        return new(
            ending,
            rule,
            program,
            step,
            now,
            Score(ending == RunEnding.Passed || judged == 0 && doneAt < long.MaxValue),
            ending == RunEnding.Passed ? "" : Ended().Text
        );
    }

    private void Decide(RunEnding ending, int rule)
    {
        decided = true;
        verdict = Told(ending, rule);
    }

    private void Judge(bool atEnd)
    {
        if (decided)
            return;
        if (Fault is not null)
        {
            Decide(RunEnding.MachineFault, -1);
            return;
        }
        // Points for what came true count once, whatever becomes of it.
        for (var i = 0; i < scored.Length; i++)
            scored[i] |= plan.Scores[i].When is { } when && Holds(when);
        // Standing still with nothing on its way and finished programs can never change again.
        var forGood = network.Finished && pendingCount == 0 && AllAtRest() && NothingToCome();
        if (forGood)
            doneAt = Math.Min(doneAt, now);
        for (var r = 0; r < rules.Length; r++)
        {
            var rule = plan.Rules[r];
            if (rule.Unjudged is not null)
                continue;
            ref var s = ref rules[r];
            if (s.Reached && rule.OnceFor is null)
                continue;
            var holds = Holds(rule.Cond);
            if (rule.OnceFor is not null)
            {
                if (holds && !s.Was)
                    s.Times++;
                s.Was = holds;
                if (s.Times > Come(rule.OnceFor))
                {
                    Decide(rule.IsGoal ? RunEnding.GoalMissed : RunEnding.NeverBroken, r);
                    return;
                }
                if (rule.IsGoal && !s.Reached)
                {
                    s.Reached = true;
                    goalsLeft--;
                    // It can only be told at the end.
                    anyNever = true;
                }
                continue;
            }
            if (!holds)
                s.Since = -1;
            else if (s.Since < 0)
                s.Since = now;
            // What can never change again goes on to the end.
            var until = forGood ? (long)Math.Round(plan.EndsS * 1e6) : now;
            var lasted = s.Since < 0 ? -1 : until - s.Since;
            if (rule.IsGoal)
            {
                var reached = rule.Clock switch
                {
                    RuleClock.AtEnd => holds && (atEnd || forGood),
                    RuleClock.For => holds && lasted >= rule.Micros,
                    RuleClock.MoreThan => holds && lasted > rule.Micros,
                    _ => holds && now <= rule.Micros,
                };
                if (reached)
                {
                    s.Reached = true;
                    goalsLeft--;
                }
                else if (rule.Clock is RuleClock.Within or RuleClock.Before && now > rule.Micros || forGood || atEnd)
                {
                    Decide(RunEnding.GoalMissed, r);
                    return;
                }
            }
            else
            {
                var broken = rule.Clock switch
                {
                    RuleClock.AtEnd => holds && (atEnd || forGood),
                    RuleClock.For => holds && lasted >= rule.Micros,
                    RuleClock.MoreThan => holds && lasted > rule.Micros,
                    _ => holds && now <= rule.Micros,
                };
                if (broken)
                {
                    Decide(RunEnding.NeverBroken, r);
                    return;
                }
            }
        }
        if (goalsLeft == 0 && (atEnd || judged > 0 && (forGood || !anyNever)))
            Decide(RunEnding.Passed, -1);
    }

    private bool AllAtRest()
    {
        for (var i = 0; i < movers.Length; i++)
            if (movers[i].Speed != 0 || movers[i].Push != 0)
                return false;
        for (var i = 0; i < drives.Length; i++)
            if (now - drives[i].RestSince < StandingMicros)
                return false;
        for (var i = 0; i < vehicles.Length; i++)
            if (now - vehicles[i].RestSince < StandingMicros)
                return false;
        return plan.Tank is null && plan.Belt is null;
    }

    private bool NothingToCome()
    {
        // Somebody at the bench can do something at any moment.
        if (plan.Hands.Length > 0)
            return false;
        for (var i = 0; i < happenings.Length; i++)
            if (
                !happenings[i].Absent
                && (happenings[i].Next != long.MaxValue || happenings[i].Active && happenings[i].Ends != long.MaxValue)
            )
                return false;
        return true;
    }

    // How many of some things have come by now.
    private int Come(string name)
    {
        var count = 0;
        for (var i = 0; i < happenings.Length; i++)
        {
            var spec = plan.Happenings[i];
            if (
                spec.Deed is Deed.Comes or Deed.Ask
                && (
                    spec.Say.StartsWith(name, StringComparison.Ordinal)
                    || name.StartsWith(spec.Say[..spec.Say.IndexOf(' ')], StringComparison.Ordinal)
                )
            )
                count += happenings[i].Absent ? 0 : happenings[i].Times;
        }
        foreach (var t in plan.Things)
            if (t.Name == name)
                count++;
        if (plan.Belt is { } belt)
            for (var i = 0; i < beltCount; i++)
                if (belt.Feeds[onBelt[i].Feed].Name == name || name == "thing")
                    count++;
        return count;
    }

    // ---- conditions ----

    private bool Holds(Cond c) => Eval(c) == 1;

    /// <summary>1 where it holds, 0 where it does not, NaN where nobody knows.</summary>
    internal double Eval(Cond c)
    {
        switch (c.Kind)
        {
            case Cond.Op.And:
            {
                var a = Eval(c.A!);
                if (a == 0)
                    return 0;
                var b = Eval(c.B!);
                return b == 0 ? 0
                    : a == 1 && b == 1 ? 1
                    : double.NaN;
            }
            case Cond.Op.Or:
            {
                var a = Eval(c.A!);
                if (a == 1)
                    return 1;
                var b = Eval(c.B!);
                return b == 1 ? 1
                    : a == 0 && b == 0 ? 0
                    : double.NaN;
            }
            case Cond.Op.Not:
                return 1 - Eval(c.A!);
            case Cond.Op.Asked:
                return network.Machines[c.Program].AskedHolds(c.Rule);
            case Cond.Op.Fact:
                return Fact(c) ? 1 : 0;
            default:
                return double.NaN;
        }
    }

    private bool Fact(Cond c)
    {
        switch (c.Fact)
        {
            case WorldFact.StoppedOver:
                return StoppedOver(c);
            case WorldFact.OverEdge:
                return c.Drive >= 0 && drives[c.Drive].Fallen;
            case WorldFact.AtPosition:
                return AtPosition(c.Axis, c.Text);
            case WorldFact.PastStop:
                var spec = plan.Axes[c.Axis];
                return (c.Text == "" || c.Text == spec.LowName) && axes[c.Axis].PastLow
                    || (c.Text == "" || c.Text == spec.HighName) && axes[c.Axis].PastHigh;
            case WorldFact.Turned:
                if (c.Axis >= 0)
                    return Math.Abs(movers[plan.Axes[c.Axis].Mover].At - axes[c.Axis].TurnedFrom) >= c.Amount;
                // A drive turns itself: its heading counts, in robot degrees.
                if (c.Drive >= 0)
                    return Math.Abs(drives[c.Drive].Heading * 180 / Math.PI - drawn[plan.Drives[c.Drive].Heading]) >= c.Amount;
                return c.Vehicle >= 0 && Math.Abs(vehicles[c.Vehicle].Rolled) >= c.Amount;
            case WorldFact.Lamp:
                return c.Text == "off" ? !IsOn(c.Output) : IsOn(c.Output) && (c.Text == "on" || outputs[c.Output].Text == c.Text);
            case WorldFact.Sounds:
                return IsOn(c.Output);
            case WorldFact.Shows:
                return outputs[c.Output].On != 0 && outputs[c.Output].Text == c.Text;
            case WorldFact.LevelAbove:
                return LevelMm > c.Amount;
            case WorldFact.LevelBelow:
                return LevelMm < c.Amount;
            case WorldFact.Crash:
                return crashes > 0;
            case WorldFact.MovingAfter:
                return now > c.Amount * 1e6 && Moving();
            case WorldFact.Finished:
                for (var p = 0; p < network.Machines.Count; p++)
                    if (plan.RigOf[p] == 0 && !network.Machines[p].Finished)
                        return false;
                return true;
            default:
                return Several(c);
        }
    }

    private bool Moving()
    {
        for (var i = 0; i < drives.Length; i++)
            if (movers[plan.Drives[i].Left].Speed != 0 || movers[plan.Drives[i].Right].Speed != 0)
                return true;
        for (var i = 0; i < vehicles.Length; i++)
            if (movers[plan.Vehicles[i].Mover].Speed != 0)
                return true;
        return false;
    }

    private bool StoppedOver(Cond c)
    {
        var place = layout.Places[c.Place];
        if (place.Marker >= 0)
        {
            for (var v = 0; v < vehicles.Length; v++)
                if (
                    (c.Vehicle < 0 || c.Vehicle == v)
                    && vehicles[v].EverMoved
                    && movers[plan.Vehicles[v].Mover].Speed == 0
                    && now - vehicles[v].RestSince >= StandingMicros
                    && Over(v, place.Marker)
                )
                    return true;
            return false;
        }
        for (var d = 0; d < drives.Length; d++)
            if (
                (c.Drive < 0 ? plan.Drives[d].Rig == 0 : c.Drive == d)
                && drives[d].EverMoved
                && movers[plan.Drives[d].Left].Speed == 0
                && movers[plan.Drives[d].Right].Speed == 0
                && now - drives[d].RestSince >= StandingMicros
                && OutsideOf(place, drives[d].X, drives[d].Y) <= 0
            )
                return true;
        return false;
    }

    // The whole spot of its first eye; the middle of a vehicle without one.
    private bool Over(int v, int marker)
    {
        var spec = plan.Vehicles[v];
        return spec.Eye >= 0
            ? OverMarker(v, drawn[plan.Senses[spec.Eye].Ahead], drawn[plan.Senses[spec.Eye].Spot] / 2, marker)
            : OverMarker(v, -spec.LengthMm / 2, 0, marker);
    }

    private bool OverMarker(int v, double ahead, double radius, int marker)
    {
        var m = layout.Markers[marker];
        if (m.Line != vehicles[v].Line)
            return false;
        var half = drawn[m.Length] / 2;
        var d = vehicles[v].At + ahead - m.AtMm - half;
        var line = layout.Lines[m.Line];
        if (line.Closed)
            d -= Math.Round(d / line.LengthMm) * line.LengthMm;
        return Math.Abs(d) <= half - radius;
    }

    private double OutsideOf(PlaceSpec place, double x, double y) =>
        place.Shape is { } shape ? shape.Outside(x, y)
        : place.Ground && plan.IsDeck ? layout.Deck!.Outside(x, y)
        : place.Ground ? Math.Max(Math.Max(-x, x - layout.FloorW), Math.Max(-y, y - layout.FloorD))
        : double.PositiveInfinity;

    private bool DriveLies(int i, Cond c)
    {
        var place = layout.Places[c.Place];
        ref readonly var d = ref drives[i];
        var middle = OutsideOf(place, d.X, d.Y);
        switch (c.Fact)
        {
            case WorldFact.Off:
                return middle > 0;
            case WorldFact.Near:
                return middle <= c.Amount;
            case WorldFact.WhollyOn or WorldFact.Touching:
                var spec = plan.Drives[i];
                var (all, any) = (true, middle <= 0);
                for (var k = 0; k < spec.Outline.Length; k++)
                {
                    var corner = Corner(spec, d, k);
                    var next = Corner(spec, d, (k + 1) % spec.Outline.Length);
                    // A stripe may lie between two corners: each side is looked at along its way.
                    var steps = (int)(Math.Sqrt((next.X - corner.X) * (next.X - corner.X) + (next.Y - corner.Y) * (next.Y - corner.Y)) / 4);
                    for (var at = 0; at <= steps; at++)
                    {
                        var share = (double)at / (steps + 1);
                        var inside = OutsideOf(place, corner.X + (next.X - corner.X) * share, corner.Y + (next.Y - corner.Y) * share) <= 0;
                        (all, any) = (all && inside, any || inside);
                    }
                }
                // What is smaller than the robot may lie all under it.
                return c.Fact == WorldFact.WhollyOn ? all : any || place.W > 0 && Covers(spec, d, place.CentreX, place.CentreY);
            default:
                return middle <= 0;
        }
    }

    // True when a point lies under the outline of a drive. Source: how often a ray from it crosses the sides.
    private static bool Covers(DriveSpec spec, in DriveState d, double x, double y)
    {
        var odd = false;
        for (var k = 0; k < spec.Outline.Length; k++)
        {
            var a = Corner(spec, d, k);
            var b = Corner(spec, d, (k + 1) % spec.Outline.Length);
            if (a.Y > y != b.Y > y && x < (b.X - a.X) * (y - a.Y) / (b.Y - a.Y) + a.X)
                odd = !odd;
        }
        return odd;
    }

    private bool ThingLies(int t, Cond c)
    {
        ref readonly var thing = ref things[t];
        bool there;
        // What is crushed is nowhere any more.
        if (c.Place < 0 || thing.Crushed)
            there = false;
        else
        {
            var place = layout.Places[c.Place];
            if (place.Axis >= 0 || place.Bin)
                there = thing.Lies == Lies.AtPlace && thing.Place == c.Place;
            // What is carried over a place is not on it, and not off it either.
            else if (thing.Lies == Lies.Carried && thing.On >= 0)
                return c.Fact == WorldFact.Off && OutsideOf(place, thing.X, thing.Y) > 0;
            else if (thing.Lies == Lies.Ground)
            {
                var outside = OutsideOf(place, thing.X, thing.Y);
                there = c.Fact switch
                {
                    WorldFact.WhollyOn => outside <= -thing.R,
                    WorldFact.Touching => outside <= thing.R,
                    WorldFact.Near => outside <= c.Amount,
                    _ => outside <= 0,
                };
            }
            else
                there = false;
        }
        return c.Fact == WorldFact.Off ? !there : there;
    }

    private bool BeforeSensor(int t, Cond c)
    {
        var spec = plan.Senses[c.Sense];
        if (spec.Drive < 0 || things[t].Lies != Lies.Ground)
            return false;
        var (x, y) = Mounted(spec.Drive, drawn[spec.Ahead], drawn[spec.Right]);
        var (dx, dy) = Math.SinCos(drives[spec.Drive].Heading + spec.FacingRad);
        return Ground.Shape.RayDisc(x, y, dx, dy, things[t].X, things[t].Y, things[t].R + 5) < c.Amount;
    }

    private bool BeltLies(in BeltThing t, Cond c)
    {
        // Off the belt is whatever has left it, wherever it fell.
        var there = c.Place == -2 ? t.Fate <= 1 : t.Fate == 2 && t.Place == c.Place;
        return c.Fact == WorldFact.Off ? !there : there;
    }

    private bool Several(Cond c)
    {
        var (yes, all) = Tally(c);
        return c.Many switch
        {
            HowMany.Every => yes == all && all > 0,
            HowMany.No => yes == 0,
            HowMany.AtLeast => yes >= c.Count,
            HowMany.AtMost => yes <= c.Count,
            HowMany.Exactly => yes == c.Count,
            _ => yes > 0,
        };
    }

    /// <summary>How many of the things that a rule counts are as it says now, and of how many; null for a rule that counts none.</summary>
    internal (int Yes, int All)? Counted(int rule) =>
        plan.Rules[rule].Cond is { Kind: Cond.Op.Fact, Many: not HowMany.One } c ? Tally(c) : null;

    private (int Yes, int All) Tally(Cond c)
    {
        int yes = 0,
            all = 0;
        if (c.Fact == WorldFact.Through)
            foreach (var h in c.Things)
            {
                if (happenings[h].Absent)
                    continue;
                all++;
                if (happenings[h].Passed)
                    yes++;
            }
        else
        {
            if (c.Drive >= 0)
            {
                all++;
                if (c.Place >= 0 && DriveLies(c.Drive, c))
                    yes++;
            }
            foreach (var h in c.Comes)
            {
                all++;
                if (happenings[h].Active && Before(h) < c.Amount)
                    yes++;
            }
            foreach (var t in c.Things)
            {
                if (things[t].Lies == Lies.Absent)
                    continue;
                all++;
                if (c.Fact == WorldFact.Before ? BeforeSensor(t, c) : ThingLies(t, c))
                    yes++;
            }
            if (c.Feed >= 0)
                for (var i = 0; i < beltCount; i++)
                {
                    if (c.Feed != int.MaxValue && onBelt[i].Feed != c.Feed)
                        continue;
                    all++;
                    if (BeltLies(onBelt[i], c))
                        yes++;
                }
        }
        return (yes, all);
    }

    // ---- points ----

    // Seconds are left only where it is done: a run that failed early has won no time.
    private double Score(bool done)
    {
        var sum = 0.0;
        for (var i = 0; i < plan.Scores.Length; i++)
        {
            var s = plan.Scores[i];
            if (s.EachSecondLeft)
                sum += done ? s.Points * Math.Max(0, Math.Floor(plan.EndsS - Math.Min(now, doneAt) * 1e-6)) : 0;
            else if (s.When is { } when)
                sum += scored[i] || Holds(when) ? s.Points : 0;
            else
                sum += s.Points * Each(s);
        }
        return sum;
    }

    // How many things lie as a line of points says.
    private int Each(ScoreSpec s)
    {
        var cond = new Cond
        {
            Kind = Cond.Op.Fact,
            Fact = s.Fact,
            Place = s.Place,
        };
        var count = 0;
        foreach (var t in s.Things)
            if (things[t].Lies != Lies.Absent && ThingLies(t, cond))
                count++;
        if (s.Feed >= 0)
            for (var b = 0; b < beltCount; b++)
                if (onBelt[b].Feed == s.Feed && BeltLies(onBelt[b], cond))
                    count++;
        return count;
    }

    private long doneAt;
}
