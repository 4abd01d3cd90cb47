using System.Globalization;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

internal sealed partial class LineParser
{
    // ---- head ----

    public ExprNode VariableValue()
    {
        Need("=");
        return Expression();
    }

    /// <summary>What a goal or a never says, without its comments.</summary>
    public RuleNode Condition(bool isGoal)
    {
        var begin = at;
        // Most rules say one of a few things; any other is a condition that may ask of the world.
        try
        {
            if (Simple(isGoal) is { } simple && AtEnd)
                return simple;
        }
        catch (LineFault) when (rig.Places.Count == 0 || Now.Kind != TokenKind.Word) { }
        at = begin;
        var holds = WorldCondition();
        var rule = new RuleNode([], isGoal, ConditionKind.Holds, null, null) { Holds = holds };
        if (Take("at most once for each"))
            rule = rule with { OnceFor = NameUntil("thing", []) };
        else if (Take("at the end"))
            rule = rule with { Clock = RuleClock.AtEnd };
        else if (Take("within"))
            rule = rule with { Time = Sum() };
        else if (Take("before"))
            rule = rule with { Time = Sum(), Clock = RuleClock.Before };
        else if (Take("for more than"))
            rule = rule with { Time = Sum(), Clock = RuleClock.MoreThan };
        else if (Take("for"))
            rule = rule with { Time = Sum(), Clock = RuleClock.For };
        return rule;
    }

    private RuleNode? Simple(bool isGoal)
    {
        ExprNode? Within() => isGoal && Take("within") ? Sum() : null;
        if (Take("stopped over"))
        {
            var place = Name("place", rig.Places);
            return new([], isGoal, ConditionKind.StoppedOver, place, Within());
        }
        if (isGoal && Take("finished"))
            return new([], true, ConditionKind.Finished, null, Within());
        if (!isGoal && Take("moving after"))
            return new([], false, ConditionKind.MovingAfter, null, Sum());
        if (!isGoal && Take("robot over the edge"))
            return new([], false, ConditionKind.OverEdge, null, null);
        var start = at;
        if (TryName("mechanism", rig.Mechanisms.Select(m => m.Name)) is { } mechanism)
        {
            if (Take("past its"))
            {
                var end =
                    Take("top") ? "top"
                    : Take("bottom") ? "bottom"
                    : null;
                Need("stop");
                return new([], isGoal, ConditionKind.PastStop, end, null) { Subject = mechanism };
            }
            at = start;
        }
        if (rig.Loads.Count > 0 && TryName("load", rig.Loads) is { } load)
        {
            if (Take("on"))
                return new([], isGoal, ConditionKind.LoadOn, PlaceName(), Within()) { Subject = load };
            at = start;
        }
        return null;
    }

    // A place that the rig need not know, such as a shelf: words up to within or the end.
    private string PlaceName()
    {
        if (TryName("place", rig.Places) is { } known)
            return known;
        var start = at;
        while (Now.Kind is TokenKind.Word or TokenKind.Number && Now.Text != "within")
            at++;
        var name = string.Join(' ', Enumerable.Range(start, at - start).Select(i => tokens[i].Text));
        if (IsName(name))
            return name;
        at = start;
        throw Unfit("Say where: a name of letters, digits and single spaces.");
    }
}
