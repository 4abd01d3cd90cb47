namespace Chiton.Core.Checking;

/// <summary>How bad a finding is.</summary>
public enum Severity
{
    /// <summary>Cannot work.</summary>
    Stops,

    /// <summary>Works sometimes.</summary>
    Risky,

    /// <summary>Good to know.</summary>
    Advice,

    /// <summary>Checked and found good.</summary>
    Holds,
}

/// <summary>A change to one line that cures a finding.</summary>
/// <param name="Line">Line of the script, from 1.</param>
/// <param name="Text">The line's new sentence.</param>
/// <param name="Index">Which number of the new line is calculated, from 0; −1 for none.</param>
/// <param name="Source">How it was calculated, in words.</param>
public sealed record CureEdit(int Line, string Text, int Index, string Source);

/// <summary>A cure: one button that says what it does.</summary>
/// <param name="Label">What the button says, such as "Use 14 %".</param>
/// <param name="Edits">Lines to change.</param>
public sealed record Cure(string Label, IReadOnlyList<CureEdit> Edits)
{
    /// <summary>A script with it: its lines changed, as far in as they stood, and nothing else.</summary>
    public string On(string script)
    {
        var lines = script.Split('\n');
        foreach (var edit in Edits)
        {
            var old = lines[edit.Line - 1];
            lines[edit.Line - 1] = old[..(old.Length - old.TrimStart().Length)] + edit.Text;
        }
        return string.Join('\n', lines);
    }
}

/// <summary>Something the check found.</summary>
/// <param name="Code">Code of the catalogue.</param>
/// <param name="Severity">How bad it is.</param>
/// <param name="Owner">State it stands in; empty for the head of the program.</param>
/// <param name="Line">Line of the script; 0 when it speaks of the whole.</param>
/// <param name="LineOfOwner">Which line of its state, from 1; 0 for the head.</param>
/// <param name="Headline">One short sentence of what will happen.</param>
/// <param name="Say">Why, with the figures.</param>
/// <param name="Cure">What would help, or null.</param>
public sealed record Finding(
    string Code,
    Severity Severity,
    string Owner,
    int Line,
    int LineOfOwner,
    string Headline,
    string Say,
    Cure? Cure
)
{
    /// <summary>Which of the rig's programs it speaks of.</summary>
    public int Program { get; init; }

    /// <summary>The device it speaks of; null where it speaks of none.</summary>
    public string? Device { get; init; }

    /// <summary>Key of the finding that it follows from; null where it stands by itself.</summary>
    public string? Because { get; init; }

    /// <summary>The events of a walk that leads there; null where none is known.</summary>
    public IReadOnlyList<Programs.Scxml.WalkEvent>? Walk { get; init; }

    /// <summary>What the bench says of it, in words; null while it was not asked, or cannot tell.</summary>
    public string? Tried { get; init; }

    /// <summary>A run that shows it; null where none is known.</summary>
    public BenchRun? Run { get; init; }

    /// <summary>What its cure comes to in the bench; null while it was not tried, or there is none.</summary>
    public CureRuns? CureTried { get; init; }

    /// <summary>The sum that it rests on, step by step; null where it rests on none.</summary>
    public Evidence? Sum { get; init; }

    /// <summary>How bad it was by its figures alone, where the bench made it more or less; null where it did not.</summary>
    public Severity? ByFigures { get; init; }

    /// <summary>Everything it says by its figures: what was set aside speaks again once this is otherwise. What the bench adds comes and
    /// goes
    /// while it runs.</summary>
    public string Said => $"{ByFigures ?? Severity} {Headline} {Say}";

    /// <summary>What it is and whose: the same after other lines were changed, so that it can be set aside.</summary>
    public string Key { get; init; } = "";
}

/// <summary>A sum that a finding rests on.</summary>
/// <param name="Sum">Name of the sum, as in Bench sums.</param>
/// <param name="Steps">What was worked out, step by step.</param>
public sealed record Evidence(string Sum, IReadOnlyList<Quantities.Step> Steps)
{
    /// <summary>Of an answer.</summary>
    /// <param name="sum">Name of the sum.</param>
    /// <param name="answer">Its answer.</param>
    public static Evidence Of<T>(string sum, Quantities.Answer<T> answer)
        where T : notnull => new(sum, answer.Steps);
}
