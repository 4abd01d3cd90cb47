using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

/// <summary>What parsing a script gives: always a program, with the lines that could not be read kept as typed.</summary>
/// <param name="Program">The program.</param>
/// <param name="Diagnostics">Every independent fault, by line.</param>
public sealed record ParseResult(ProgramNode Program, IReadOnlyList<Diagnostic> Diagnostics)
{
    // The lines as they were read, for the next reading of nearly the same text.
    internal ReadLines? Lines { get; init; }
}

/// <summary>The lines of states that were read without a fault, with the names they were read by.</summary>
internal sealed class ReadLines(string[] text, Declared own, LineNode?[] nodes)
{
    /// <summary>The same line of the same number, read by the same names; null where it must be read anew.</summary>
    public LineNode? At(int line, string asTyped) => line < text.Length && text[line] == asTyped ? nodes[line] : null;

    /// <summary>True when a text declares the same names: each line means what it meant.</summary>
    public bool Means(Declared other) => own.Same(other);
}

/// <summary>Reads the script language. A faulty line never hides the faults of the others.</summary>
public static class ScriptParser
{
    /// <summary>Longest script in characters.</summary>
    public const int MostCharacters = Rigs.RigRules.MostScript;

    /// <summary>Most lines of a script.</summary>
    public const int MostLines = Rigs.RigRules.MostScriptLines;

    /// <summary>Words that begin a line inside a state.</summary>
    private static readonly string[] LineWords =
    [
        "when",
        "after",
        "every",
        "always",
        "on entry",
        "while here",
        "on exit",
        "state",
        "region",
        "history",
        "deep history",
    ];

    private static readonly string[] HeadWords = ["const", "var", "goal", "never", "region", "routine", "program"];

    // What a block is while its lines are read.
    private sealed class Block
    {
        public char Kind;
        public int Indent;
        public string Name = "";
        public Span Span;
        public Sequence<string> Comments,
            Parameters;
        public bool Initial,
            Final;
        public readonly List<LineNode> Lines = [];
        public readonly List<HistoryNode> Histories = [];
        public readonly List<Block> States = [],
            Regions = [];

        public StateNode State() =>
            new(Name, Initial, Final, Comments, Lines.ToSequence())
            {
                Span = Span,
                Histories = Histories.ToSequence(),
                States = States.Select(s => s.State()).ToSequence(),
                Regions = Regions.Select(r => r.Region()).ToSequence(),
            };

        public RegionNode Region() => new(Name, Comments, States.Select(s => s.State()).ToSequence()) { Span = Span };

        // States that stand in a routine directly are a region without a name.
        public RoutineNode Routine() =>
            new(
                Name,
                Comments,
                Parameters,
                (States.Count > 0 ? [new RegionNode("", [], States.Select(s => s.State()).ToSequence())] : Array.Empty<RegionNode>())
                    .Concat(Regions.Select(r => r.Region()))
                    .ToSequence()
            )
            {
                Span = Span,
            };
    }

    /// <summary>The name of the program in a script; null when its first line gives none.</summary>
    public static string? NameOf(string script)
    {
        foreach (var line in script.Split('\n'))
        {
            var text = line.Trim();
            if (text == "" || text[0] == '#')
                continue;
            if (!text.StartsWith("program ", StringComparison.Ordinal))
                return null;
            var bracket = text.IndexOf('(');
            var name = (bracket < 0 ? text[8..] : text[8..bracket]).Trim().Trim('\'');
            return IsName(name) ? name : null;
        }
        return null;
    }

    /// <summary>Parses a script against the names of a rig.</summary>
    /// <param name="script">The text, at most <see cref="MostCharacters"/> long.</param>
    /// <param name="rig">The rig's names.</param>
    /// <param name="like">The result of a nearly equal text by the very same names of the rig: lines that stand where they stood are
    /// not read again. Null to read all.</param>
    /// <exception cref="InputProblem">When the script is longer than allowed.</exception>
    public static ParseResult Parse(string script, Vocabulary rig, ParseResult? like = null)
    {
        var lines = Split(script);
        var found = new List<Diagnostic>();
        var own = Declare(lines);
        var known = like?.Lines?.Means(own) == true ? like.Lines : null;
        var nodes = new LineNode?[lines.Length];

        string? programName = null;
        var programSpan = default(Span);
        Sequence<string> programComments = [];
        Sequence<string> parameters = [];
        var head = new List<HeadNode>();
        var regions = new List<Block>();
        var routines = new List<Block>();
        var open = new List<Block>();
        var comments = new List<string>();

        Sequence<string> TakeComments()
        {
            var taken = comments.ToSequence();
            comments.Clear();
            return taken;
        }
        Block? Innermost(Func<Block, bool> which) => open.LastOrDefault(which);
        // What is indented as far, or farther, has ended.
        void Close(int indent, bool keepOuter)
        {
            while (open.Count > 0 && open[^1].Indent >= indent && !(keepOuter && open.Count == 1 && open[0].Kind != 's'))
                open.RemoveAt(open.Count - 1);
        }

        for (var i = 0; i < lines.Length; i++)
        {
            var text = lines[i].TrimEnd();
            var number = i + 1;
            var trimmed = text.TrimStart();
            if (trimmed == "")
                continue;
            if (trimmed[0] == '#')
            {
                comments.Add(trimmed.Length > 1 && trimmed[1] == ' ' ? trimmed[2..] : trimmed[1..]);
                continue;
            }
            var indent = text.Length - trimmed.Length;
            var span = new Span(number, indent + 1, trimmed.Length);
            var taken = false;
            var noting = false;
            if (known?.At(i, lines[i]) is { } before && Innermost(b => b.Kind == 's') is not null)
            {
                nodes[i] = before;
                Home(indent).Lines.Add(before with { Comments = TakeComments(), Span = span });
                continue;
            }
            again:
            try
            {
                var p = new LineParser(text, number, rig, own, noting);
                if (p.Take("program"))
                {
                    var name = p.NewName("program");
                    parameters = p.Parameters();
                    p.End();
                    if (programName is not null)
                        throw new LineFault(indent + 1, 7, "program", "", "There is already a program line above.", null);
                    programName = name;
                    programSpan = span;
                    programComments = TakeComments();
                }
                else if (p.Take("region"))
                {
                    var name = p.NewName("region");
                    p.End();
                    Close(indent, false);
                    var made = new Block
                    {
                        Kind = 'r',
                        Indent = indent,
                        Name = name,
                        Span = span,
                        Comments = TakeComments(),
                    };
                    var outer = Innermost(b => b.Kind is 's' or 'u');
                    (outer?.Regions ?? regions).Add(made);
                    if (open.Count > 0 && open[^1].Kind == 'r')
                        open.RemoveAt(open.Count - 1);
                    open.Add(made);
                    taken = true;
                    if (open.Count > MostNesting)
                        throw new LineFault(indent + 1, trimmed.Length, "region", "", $"States stand at most {MostNesting} deep.", null);
                }
                else if (p.Take("routine"))
                {
                    var name = p.NewName("routine");
                    var routineParameters = p.Parameters();
                    p.End();
                    if (indent > 0)
                        throw new LineFault(
                            indent + 1,
                            7,
                            "routine",
                            "",
                            "A routine stands by itself: begin its line at the margin.",
                            null
                        );
                    open.Clear();
                    var made = new Block
                    {
                        Kind = 'u',
                        Indent = indent,
                        Name = name,
                        Span = span,
                        Comments = TakeComments(),
                        Parameters = routineParameters,
                    };
                    routines.Add(made);
                    open.Add(made);
                    taken = true;
                }
                else if (p.Take("state"))
                {
                    var name = p.NewName("state");
                    bool initial = false,
                        final = false;
                    while (p.Take(","))
                    {
                        if (p.Take("initial"))
                            initial = true;
                        else if (p.Take("final"))
                            final = true;
                        else
                            throw p.Unfit();
                    }
                    p.End();
                    Close(indent, true);
                    if (open.Count == 0)
                    {
                        // A program that names no region has one called Main.
                        var main =
                            regions.FirstOrDefault(r => r.Name == "Main" && r.Span.Line == 0)
                            ?? new Block
                            {
                                Kind = 'r',
                                Indent = -1,
                                Name = "Main",
                            };
                        if (!regions.Contains(main))
                            regions.Add(main);
                        open.Add(main);
                    }
                    var made = new Block
                    {
                        Kind = 's',
                        Indent = indent,
                        Name = name,
                        Span = span,
                        Comments = TakeComments(),
                        Initial = initial,
                        Final = final,
                    };
                    open[^1].States.Add(made);
                    open.Add(made);
                    taken = true;
                    if (open.Count > MostNesting)
                        throw new LineFault(indent + 1, trimmed.Length, "state", "", $"States stand at most {MostNesting} deep.", null);
                }
                else if (p.Take("deep history") is var deep && (deep || p.Take("history")))
                {
                    var name = p.NewName("history");
                    var (target, at) = p.HistoryTarget();
                    p.End();
                    Close(indent, true);
                    var state =
                        Innermost(b => b.Kind == 's')
                        ?? throw new LineFault(
                            indent + 1,
                            trimmed.Length,
                            "history",
                            "",
                            "A history stands in a state that has states in it.",
                            null
                        );
                    state.Histories.Add(new(name, TakeComments(), deep, target) { Span = span, TargetSpan = at });
                }
                else if (p.Take("const") is var isConst && (isConst || p.Take("var")))
                {
                    var name = p.NewName(isConst ? "constant" : "variable");
                    var value = p.VariableValue();
                    p.End();
                    Outside(open, indent, isConst ? "const" : "var");
                    head.Add(
                        isConst
                            ? new ConstNode(TakeComments(), name, value) { Span = span }
                            : new VarNode(TakeComments(), name, value) { Span = span }
                    );
                }
                else if (p.Take("goal :") || p.Take("never :"))
                {
                    var goal = trimmed.StartsWith("goal", StringComparison.Ordinal);
                    var rule = p.Condition(goal);
                    p.End();
                    Outside(open, indent, goal ? "goal" : "never");
                    head.Add(rule with { Comments = TakeComments(), Span = span });
                }
                else
                {
                    LineNode node;
                    if (p.Take("on entry :"))
                        node = new ActivityNode([], ActivityMoment.Entry, p.Actions());
                    else if (p.Take("while here :"))
                        node = new ActivityNode([], ActivityMoment.While, p.Actions());
                    else if (p.Take("on exit :"))
                        node = new ActivityNode([], ActivityMoment.Exit, p.Actions());
                    else if (p.Take("when"))
                        node = Transition(p, p.When());
                    else if (p.Take("after"))
                        node = Transition(p, p.After());
                    else if (p.Take("every"))
                        node = Transition(p, p.Every());
                    else if (p.Take("always"))
                        node = Transition(p, new AlwaysTriggerNode { Span = new(number, indent + 1, 6) });
                    else
                        throw Unknown(p, trimmed, indent, Innermost(b => b.Kind == 's') is not null);
                    Home(indent).Lines.Add(node with { Comments = TakeComments(), Span = span });
                    nodes[i] = node;
                }
            }
            catch (LineFault) when (!noting && !taken && found.Count < MostExplained)
            {
                // Once more, noting what would have fitted where.
                noting = true;
                goto again;
            }
            catch (LineFault fault)
            {
                found.Add(fault.At(number));
                // A state or region line that was taken in is not broken as well.
                if (taken)
                    continue;
                if (Innermost(b => b.Kind == 's') is not null && indent > 0)
                    Home(indent).Lines.Add(new BrokenLineNode(TakeComments(), trimmed) { Span = span });
                else if (regions.Count == 0 && routines.Count == 0)
                    head.Add(new BrokenHeadNode(TakeComments(), trimmed) { Span = span });
                else if (open.Count > 0 && (Innermost(b => b.Kind == 's') ?? open[^1].States.LastOrDefault()) is { } near)
                    near.Lines.Add(new BrokenLineNode(TakeComments(), trimmed) { Span = span });
            }

            // The state that a line belongs to: the innermost that is indented less; in a text without indentation the latest.
            Block Home(int at)
            {
                var inner = Innermost(b => b.Kind == 's' && b.Indent < at);
                if (inner is not null)
                {
                    while (open[^1] != inner)
                        open.RemoveAt(open.Count - 1);
                    return inner;
                }
                return Innermost(b => b.Kind == 's')
                    ?? throw new LineFault(
                        at + 1,
                        trimmed.Length,
                        trimmed.Split(' ')[0],
                        "a state",
                        "This line belongs to a state. Put it under a state line.",
                        null
                    );
            }
        }
        if (programName is null)
            found.Insert(
                0,
                new(
                    1,
                    1,
                    1,
                    lines.FirstOrDefault(l => l.Trim() != "") ?? "nothing",
                    "program NAME",
                    "A script begins with “program” and a name.",
                    null
                )
            );
        var program = new ProgramNode(
            programName ?? "Untitled",
            programComments,
            head.ToSequence(),
            regions.Select(r => r.Region()).ToSequence(),
            comments.ToSequence()
        )
        {
            Span = programSpan,
            Routines = routines.Select(r => r.Routine()).ToSequence(),
            Parameters = parameters,
            Given = parameters.Where(rig.Given.ContainsKey).Distinct().Select(n => new GivenNode(n, rig.Given[n])).ToSequence(),
            OwnNames = rig.OwnNames.ToSequence(),
        };
        found.AddRange(Analysis.Check(program, rig));
        return new(program, [.. found.OrderBy(d => d.Line).ThenBy(d => d.Column)]) { Lines = new(lines, own, nodes) };
    }

    /// <summary>So many faulty lines are looked at for what would have fitted; of a text that is no program at all the rest are only
    /// named.</summary>
    public const int MostExplained = 100;

    /// <summary>How deep states may stand in states.</summary>
    public const int MostNesting = 24;

    private static TransitionNode Transition(LineParser p, TriggerNode trigger)
    {
        var (guard, actions, target, targetSpan, inside) = p.RestOfTransition();
        return new TransitionNode([], trigger, guard, actions, target) { TargetSpan = targetSpan, Inside = inside };
    }

    private static void Outside(List<Block> open, int indent, string word)
    {
        if (open.Count > 0)
            throw new LineFault(
                indent + 1,
                word.Length,
                word,
                "",
                $"A {word} line belongs at the head of the program, above the first region.",
                null
            );
    }

    private static LineFault Unknown(LineParser p, string trimmed, int indent, bool inState)
    {
        var words = inState ? LineWords : HeadWords;
        var firstTwo = string.Join(' ', trimmed.Split([' ', ':'], StringSplitOptions.RemoveEmptyEntries).Take(2));
        var first = firstTwo.Split(' ')[0];
        if (words.Contains(first) || words.Contains(firstTwo))
            return new(
                indent + first.Length + 1,
                1,
                trimmed,
                ":",
                $"A colon should follow “{(words.Contains(firstTwo) ? firstTwo : first)}”.",
                null
            );
        // A line that begins the other kind of block says so better than any near miss.
        if (inState && first is "var" or "const" or "goal" or "never")
            return new(
                indent + 1,
                first.Length,
                first,
                "",
                $"A {first} line belongs at the head of the program, above the first region.",
                null
            );
        var near = NearMiss.Find(firstTwo, words) ?? NearMiss.Find(first, words);
        var message =
            $"A line {(inState ? "of a state" : "at the head of a program")} begins with {LineParser.Or(words)}; found “{first}”.";
        if (near is not null)
            message += $" Did you mean “{near}”?";
        return new(indent + 1, first.Length, first, LineParser.Or(words), message, near);
    }

    /// <summary>True for a name that programs can use: letters, digits and single spaces, starting with a letter, at most 60
    /// long.</summary>
    public static bool IsName(string name) => LineParser.IsName(name);

    internal static string[] Split(string script)
    {
        if (script.Length > MostCharacters)
            throw new InputProblem("script", $"A script has at most {MostCharacters} characters; this one has {script.Length}.");
        var lines = script.ReplaceLineEndings("\n").Split('\n');
        for (var i = 0; i < lines.Length; i++)
            if (Unshown(lines[i]) is { } code)
                throw new InputProblem("script", $"Line {i + 1} has a character that cannot be shown (U+{code:X4}). Take it out.");
        if (lines.Length > MostLines)
            throw new InputProblem("script", $"A script has at most {MostLines} lines; this one has {lines.Length}.");
        return lines;
    }

    // A control character, or half of a character: nobody sees it, and no other program reads it.
    private static int? Unshown(string line)
    {
        for (var i = 0; i < line.Length; i++)
        {
            var c = line[i];
            if (char.IsControl(c) && c != '\t' || c is '\uFFFE' or '\uFFFF')
                return c;
            if (!char.IsSurrogate(c))
                continue;
            if (!char.IsHighSurrogate(c) || i + 1 >= line.Length || !char.IsLowSurrogate(line[i + 1]))
                return c;
            i++;
        }
        return null;
    }

    /// <summary>First pass: the names the program declares, wherever they stand, so that any line may use them.</summary>
    internal static Declared Declare(string[] lines)
    {
        NameSet variables = new(),
            states = new(),
            regions = new(),
            routines = new();
        foreach (var line in lines)
        {
            var text = line.Trim();
            if (text.StartsWith("var ", StringComparison.Ordinal) && text.IndexOf('=') is > 4 and var eq)
                AddName(variables, text[4..eq]);
            if (text.StartsWith("const ", StringComparison.Ordinal) && text.IndexOf('=') is > 6 and var equals)
                AddName(variables, text[6..equals]);
            if (text.StartsWith("state ", StringComparison.Ordinal))
                AddName(states, text[6..].Split(',')[0]);
            if (text.StartsWith("region ", StringComparison.Ordinal))
                AddName(regions, text[7..]);
            if (text.StartsWith("history ", StringComparison.Ordinal) && text.IndexOf(':') is > 8 and var colon)
                AddName(states, text[8..colon]);
            if (text.StartsWith("deep history ", StringComparison.Ordinal) && text.IndexOf(':') is > 13 and var end)
                AddName(states, text[13..end]);
            var routine = text.StartsWith("routine ", StringComparison.Ordinal);
            if (!routine && !text.StartsWith("program ", StringComparison.Ordinal))
                continue;
            var bracket = text.IndexOf('(');
            if (routine)
                AddName(routines, bracket < 0 ? text[8..] : text[8..bracket]);
            // Parameters are names like variables; that they are used in their routine alone is looked at afterwards.
            if (bracket > 0)
                foreach (var parameter in text[(bracket + 1)..].TrimEnd(')').Split(','))
                    AddName(variables, parameter);
        }
        // A program without a region line has one called Main.
        if (regions.Count == 0)
            regions.Add("Main");
        return new(variables, states, regions, routines);
    }

    private static void AddName(NameSet set, string raw)
    {
        var name = string.Join(' ', raw.Trim().Trim('\'').Split(' ', StringSplitOptions.RemoveEmptyEntries));
        if (LineParser.IsName(name))
            set.Add(name);
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
        if (line < 1 || line > lines.Length)
            return [];
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
                var fits =
                    typed == ""
                        ? candidate.Kind is not "operator"
                        : candidate.Text.StartsWith(typed, StringComparison.OrdinalIgnoreCase) && candidate.Text != typed;
                if (fits && candidate.Kind is not ("number" or "text") && !found.Any(f => f.Item1 == candidate))
                    found.Add((candidate, start));
            }
            if (start == 0)
                break;
            var next = start;
            while (next > 0 && before[next - 1] == ' ')
                next--;
            var wordEnd = next;
            while (next > 0 && (char.IsLetterOrDigit(before[next - 1]) || before[next - 1] == '%'))
                next--;
            if (next == wordEnd)
                break;
            start = next;
        }
        return Likely.First(found, lines, line - 1, rig);
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
            return
            [
                .. (inside ? LineWords : HeadWords).Select(w => new Candidate(
                    w is "on entry" or "on exit" or "while here" or "goal" or "never" ? w + ":" : w,
                    "keyword"
                )),
            ];
        }
        try
        {
            if (p.Take("var") || p.Take("const"))
            {
                p.NewName("variable");
                p.VariableValue();
            }
            else if (p.Take("deep history") || p.Take("history"))
            {
                p.NewName("history");
                p.HistoryTarget();
            }
            else if (p.Take("every"))
                Transition(p, p.Every());
            else if (p.Take("always"))
                Transition(p, new AlwaysTriggerNode());
            else if (p.Take("goal :"))
                p.Condition(true);
            else if (p.Take("never :"))
                p.Condition(false);
            else if (p.Take("on entry :") || p.Take("while here :") || p.Take("on exit :"))
                p.Actions();
            else if (p.Take("when"))
                Transition(p, p.When());
            else if (p.Take("after"))
                Transition(p, p.After());
            else if (p.Take("state"))
            {
                p.NewName("state");
                while (p.Take(","))
                    if (!p.Take("initial") && !p.Take("final"))
                        break;
            }
        }
        catch (LineFault)
        {
            // The prefix is unfinished on purpose: what it lacked is what is asked for.
        }
        return p.WantedAtEnd;
    }
}
