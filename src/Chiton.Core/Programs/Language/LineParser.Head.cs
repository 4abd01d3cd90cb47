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
        return new([], isGoal, ConditionKind.Holds, null, null) { Holds = Expression(), Time = Within() };
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
