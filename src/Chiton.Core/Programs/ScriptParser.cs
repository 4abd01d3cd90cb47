using Chiton.Core.Quantities;

namespace Chiton.Core.Programs;

/// <summary>What parsing a script gives: always a program, with the lines that could not be read kept as typed.</summary>
/// <param name="Program">The program.</param>
/// <param name="Diagnostics">Every independent fault, by line.</param>
public sealed record ParseResult(ProgramNode Program, IReadOnlyList<Diagnostic> Diagnostics);

/// <summary>Reads the script language. A faulty line never hides the faults of the others.</summary>
public static class ScriptParser
{
    /// <summary>Longest script in characters.</summary>
    public const int MostCharacters = 200_000;

    /// <summary>Most lines of a script.</summary>
    public const int MostLines = 5_000;

    /// <summary>Words that begin a line inside a state.</summary>
    private static readonly string[] LineWords = ["when", "after", "on entry", "while here", "on exit", "state"];

    private static readonly string[] HeadWords = ["var", "goal", "never", "region", "program"];

    /// <summary>Parses a script against the names of a rig.</summary>
    /// <param name="script">The text, at most <see cref="MostCharacters"/> long.</param>
    /// <param name="rig">The rig's names.</param>
    /// <exception cref="InputProblem">When the script is longer than allowed.</exception>
    public static ParseResult Parse(string script, Vocabulary rig)
    {
        var lines = Split(script);
        var found = new List<Diagnostic>();
        var own = Declare(lines);

        string? programName = null;
        var programSpan = default(Span);
        Sequence<string> programComments = [];
        var head = new List<HeadNode>();
        var regions = new List<RegionNode>();
        RegionNode? region = null;
        var states = new List<StateNode>();
        StateNode? state = null;
        var stateIndent = 0;
        var inner = new List<LineNode>();
        var comments = new List<string>();

        void CloseState()
        {
            if (state is not null) states.Add(state with { Lines = inner.ToSequence() });
            state = null;
            inner.Clear();
        }
        void CloseRegion()
        {
            CloseState();
            if (region is not null) regions.Add(region with { States = states.ToSequence() });
            region = null;
            states.Clear();
        }
        Sequence<string> TakeComments()
        {
            var taken = comments.ToSequence();
            comments.Clear();
            return taken;
        }

        for (var i = 0; i < lines.Length; i++)
        {
            var text = lines[i].TrimEnd();
            var number = i + 1;
            var trimmed = text.TrimStart();
            if (trimmed == "") continue;
            if (trimmed[0] == '#')
            {
                comments.Add(trimmed.Length > 1 && trimmed[1] == ' ' ? trimmed[2..] : trimmed[1..]);
                continue;
            }
            var indent = text.Length - trimmed.Length;
            var span = new Span(number, indent + 1, trimmed.Length);
            try
            {
                var p = new LineParser(text, number, rig, own);
                if (p.Take("program"))
                {
                    var name = p.NewName("program");
                    p.End();
                    if (programName is not null) throw new LineFault(indent + 1, 7, "program", "", "There is already a program line above.", null);
                    programName = name;
                    programSpan = span;
                    programComments = TakeComments();
                }
                else if (p.Take("region"))
                {
                    var name = p.NewName("region");
                    p.End();
                    CloseRegion();
                    region = new RegionNode(name, TakeComments(), []) { Span = span };
                    if (regions.Count > 0) throw new LineFault(indent + 1, trimmed.Length, "region", "", "One region for now: several side by side come with a later version.", null);
                }
                else if (p.Take("state"))
                {
                    var name = p.NewName("state");
                    bool initial = false, final = false;
                    while (p.Take(","))
                    {
                        if (p.Take("initial")) initial = true;
                        else if (p.Take("final")) final = true;
                        else throw p.Unfit();
                    }
                    p.End();
                    var deeper = state is not null && indent > stateIndent;
                    CloseState();
                    region ??= new RegionNode("Main", [], []);
                    state = new StateNode(name, initial, final, TakeComments(), []) { Span = span };
                    if (deeper) throw new LineFault(indent + 1, trimmed.Length, "state", "", "States inside states come with a later version. Indent every state by two spaces.", null);
                    stateIndent = indent;
                }
                else if (p.Take("var"))
                {
                    var name = p.NewName("variable");
                    var value = p.VariableValue();
                    p.End();
                    Outside(state, region, indent, "var");
                    head.Add(new VarNode(TakeComments(), name, value) { Span = span });
                }
                else if (p.Take("goal :") || p.Take("never :"))
                {
                    var goal = trimmed.StartsWith("goal");
                    var (kind, place, time) = p.Condition(goal);
                    p.End();
                    Outside(state, region, indent, goal ? "goal" : "never");
                    head.Add(new RuleNode(TakeComments(), goal, kind, place, time) { Span = span });
                }
                else
                {
                    LineNode node;
                    if (p.Take("on entry :")) node = new ActivityNode([], ActivityMoment.Entry, p.Actions());
                    else if (p.Take("while here :")) node = new ActivityNode([], ActivityMoment.While, p.Actions());
                    else if (p.Take("on exit :")) node = new ActivityNode([], ActivityMoment.Exit, p.Actions());
                    else if (p.Take("when")) node = Transition(p, p.When());
                    else if (p.Take("after")) node = Transition(p, p.After());
                    else throw Unknown(p, trimmed, indent, state is not null);
                    if (state is null) throw new LineFault(indent + 1, trimmed.Length, trimmed.Split(' ')[0], "a state", "This line belongs to a state. Put it under a state line.", null);
                    inner.Add(node with { Comments = TakeComments(), Span = span });
                }
            }
            catch (LineFault fault)
            {
                found.Add(fault.At(number));
                // A state or region line that was taken in is not broken as well.
                var taken = (state?.Span.Line == number && state.Span.Length == span.Length) || (region?.Span.Line == number && region.Span.Length == span.Length);
                if (taken) continue;
                if (state is not null && indent > 0) inner.Add(new BrokenLineNode(TakeComments(), trimmed) { Span = span });
                else if (region is null) head.Add(new BrokenHeadNode(TakeComments(), trimmed) { Span = span });
                else if (state is not null || states.Count == 0) inner.Add(new BrokenLineNode(TakeComments(), trimmed) { Span = span });
            }
        }
        CloseRegion();
        if (programName is null) found.Insert(0, new(1, 1, 1, lines.FirstOrDefault(l => l.Trim() != "") ?? "nothing", "program NAME", "A script begins with “program” and a name.", null));
        var program = new ProgramNode(programName ?? "Untitled", programComments, head.ToSequence(), regions.ToSequence(), comments.ToSequence()) { Span = programSpan };
        found.AddRange(Analysis.Check(program, rig));
        return new(program, [.. found.OrderBy(d => d.Line).ThenBy(d => d.Column)]);
    }

    private static TransitionNode Transition(LineParser p, TriggerNode trigger)
    {
        var (guard, actions, target, targetSpan) = p.RestOfTransition();
        return new TransitionNode([], trigger, guard, actions, target) { TargetSpan = targetSpan };
    }

    private static void Outside(StateNode? state, RegionNode? region, int indent, string word)
    {
        if (state is not null || region is not null)
            throw new LineFault(indent + 1, word.Length, word, "", $"A {word} line belongs at the head of the program, above the first region.", null);
    }

    private static LineFault Unknown(LineParser p, string trimmed, int indent, bool inState)
    {
        var words = inState ? LineWords : HeadWords;
        var firstTwo = string.Join(' ', trimmed.Split([' ', ':'], StringSplitOptions.RemoveEmptyEntries).Take(2));
        var first = firstTwo.Split(' ')[0];
        if (words.Contains(first) || words.Contains(firstTwo))
            return new(indent + first.Length + 1, 1, trimmed, ":", $"A colon should follow “{(words.Contains(firstTwo) ? firstTwo : first)}”.", null);
        var near = NearMiss.Find(firstTwo, words) ?? NearMiss.Find(first, words);
        var message = $"A line {(inState ? "of a state" : "at the head of a program")} begins with {LineParser.Or(words)}; found “{first}”.";
        if (near is not null) message += $" Did you mean “{near}”?";
        return new(indent + 1, first.Length, first, LineParser.Or(words), message, near);
    }

    /// <summary>True for a name that programs can use: letters, digits and single spaces, starting with a letter, at most 60 long.</summary>
    public static bool IsName(string name) => LineParser.IsName(name);

    internal static string[] Split(string script)
    {
        if (script.Length > MostCharacters) throw new InputProblem("script", $"A script has at most {MostCharacters} characters; this one has {script.Length}.");
        var lines = script.ReplaceLineEndings("\n").Split('\n');
        if (lines.Length > MostLines) throw new InputProblem("script", $"A script has at most {MostLines} lines; this one has {lines.Length}.");
        return lines;
    }

    /// <summary>First pass: the names the program declares, wherever they stand, so that any line may use them.</summary>
    internal static Declared Declare(string[] lines)
    {
        var variables = new HashSet<string>();
        var states = new HashSet<string>();
        foreach (var line in lines)
        {
            var text = line.Trim();
            if (text.StartsWith("var ") && text.IndexOf('=') is > 4 and var eq) AddName(variables, text[4..eq]);
            if (text.StartsWith("state ")) AddName(states, text[6..].Split(',')[0]);
        }
        return new(variables, states);
    }

    private static void AddName(HashSet<string> set, string raw)
    {
        var name = string.Join(' ', raw.Trim().Trim('\'').Split(' ', StringSplitOptions.RemoveEmptyEntries));
        if (LineParser.IsName(name)) set.Add(name);
    }

    /// <summary>
    /// What can be typed at a place of a line: from the grammar and the rig's own names, those that go on from what has
    /// been typed of the current word.
    /// </summary>
    /// <param name="script">The whole script.</param>
    /// <param name="line">Line, from 1.</param>
    /// <param name="column">Caret, counted from 0 at the start of the line.</param>
    /// <param name="rig">The rig's names.</param>
    /// <returns>Candidates, each with the column where its text begins.</returns>
    public static IReadOnlyList<(Candidate Candidate, int Start)> Complete(string script, int line, int column, Vocabulary rig)
    {
        var lines = Split(script);
        if (line < 1 || line > lines.Length) return [];
        var own = Declare(lines);
        var text = lines[line - 1];
        var before = text[..Math.Clamp(column, 0, text.Length)];
        var found = new List<(Candidate, int)>();
        var start = before.Length;
        // Names have up to several words: look back word by word for a place where what was typed begins a candidate.
        for (var words = 0; words <= 4; words++)
        {
            var typed = before[start..];
            foreach (var candidate in WantedAfter(before[..start], line, rig, own, text))
            {
                var fits = typed == ""
                    ? candidate.Kind is not "operator"
                    : candidate.Text.StartsWith(typed, StringComparison.OrdinalIgnoreCase) && candidate.Text != typed;
                if (fits && candidate.Kind is not ("number" or "text") && !found.Any(f => f.Item1 == candidate)) found.Add((candidate, start));
            }
            if (start == 0) break;
            var next = start;
            while (next > 0 && before[next - 1] == ' ') next--;
            var wordEnd = next;
            while (next > 0 && (char.IsLetterOrDigit(before[next - 1]) || before[next - 1] == '%')) next--;
            if (next == wordEnd) break;
            start = next;
        }
        return found;
    }

    private static IReadOnlyList<Candidate> WantedAfter(string prefix, int line, Vocabulary rig, Declared own, string whole)
    {
        LineParser p;
        try
        {
            p = new LineParser(prefix, line, rig, own);
        }
        catch (LineFault)
        {
            return [];
        }
        if (p.AtEnd)
        {
            var inside = whole.StartsWith(' ');
            return [.. (inside ? LineWords : HeadWords).Select(w => new Candidate(w is "on entry" or "on exit" or "while here" or "goal" or "never" ? w + ":" : w, "keyword"))];
        }
        try
        {
            if (p.Take("var"))
            {
                p.NewName("variable");
                p.VariableValue();
            }
            else if (p.Take("goal :")) p.Condition(true);
            else if (p.Take("never :")) p.Condition(false);
            else if (p.Take("on entry :") || p.Take("while here :") || p.Take("on exit :")) p.Actions();
            else if (p.Take("when")) Transition(p, p.When());
            else if (p.Take("after")) Transition(p, p.After());
            else if (p.Take("state"))
            {
                p.NewName("state");
                while (p.Take(",")) if (!p.Take("initial") && !p.Take("final")) break;
            }
        }
        catch (LineFault)
        {
            // The prefix is unfinished on purpose: what it lacked is what is asked for.
        }
        return p.WantedAtEnd;
    }
}
