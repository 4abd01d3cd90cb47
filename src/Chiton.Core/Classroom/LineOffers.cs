using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Classroom;

/// <summary>A changed sentence that is offered to those who have the program already.</summary>
/// <param name="Kind">What became of it.</param>
/// <param name="Where">In which state, as differences name it: "state Rolling", or "the head".</param>
/// <param name="Before">The sentence before; null when it is new.</param>
/// <param name="After">The sentence now; null when it is gone, or only stands elsewhere.</param>
/// <param name="Below">What stands right above it now: a sentence, or of a state that is new the state; null where nothing does.</param>
/// <param name="OfState">True for a state that is new or gone.</param>
/// <param name="Lines">Of a state that is new its sentences.</param>
/// <param name="Say">All of it in a sentence.</param>
public sealed record LineOffer(
    ChangeKind Kind,
    string Where,
    string? Before,
    string? After,
    string? Below,
    bool OfState,
    IReadOnlyList<string> Lines,
    string Say
);

/// <summary>Changes of a program that was handed out, to be taken over one by one into what became of it.</summary>
public static class LineOffers
{
    private const string Head = "the head";

    /// <summary>What can be offered of the changes between two programs, in the order of the newer one. Regions and routines are put in by
    /// hand.</summary>
    /// <param name="before">What was handed out.</param>
    /// <param name="after">What it is now.</param>
    public static IReadOnlyList<LineOffer> Between(ProgramNode before, ProgramNode after)
    {
        var (old, now) = (ProgramDifference.Blocks(before), ProgramDifference.Blocks(after));
        var offers = new List<LineOffer>();
        var made = new HashSet<string>();
        foreach (var c in ProgramDifference.Between(before, after))
        {
            if (c.Where != Head && !c.Where.StartsWith("state ", StringComparison.Ordinal) || made.Contains(c.Where))
                continue;
            var block = now.FirstOrDefault(b => b.Name == c.Where);
            if (c.Kind == ChangeKind.Added && old.All(b => b.Name != c.Where))
            {
                made.Add(c.Where);
                // Inside another state it stands otherwise than beside one.
                if (now.TakeWhile(b => b.Name != c.Where).LastOrDefault(b => Beside(b.Name, c.Where)) is not { } above)
                    continue;
                offers.Add(new(c.Kind, c.Where, null, c.After, above.Name, true, [.. block!.Lines.Select(l => l.Text)], c.Say));
                continue;
            }
            var text = c.After ?? (c.Kind == ChangeKind.Moved ? c.Before : null);
            var at = text is null || block is null ? -1 : block.Lines.ToList().FindIndex(l => l.Text == text);
            // The own line of a state, or of the program, is no sentence to be offered.
            if (text is not null && at < 0)
                continue;
            offers.Add(new(c.Kind, c.Where, c.Before, c.After, at > 0 ? block!.Lines[at - 1].Text : null, block is null, [], c.Say));
        }
        return offers;
    }

    private static bool Beside(string one, string other) => one.StartsWith("state ", StringComparison.Ordinal) && Path(one) == Path(other);

    private static string Path(string state) => state.LastIndexOf('.') is >= 0 and var dot ? state[..dot] : "state ";

    /// <summary>Takes an offer over into a program.</summary>
    /// <param name="text">The program, with where its numbers come from.</param>
    /// <param name="words">The rig's names.</param>
    /// <param name="offer">The offer.</param>
    /// <returns>The program with it, and the line where it stands now, from 1.</returns>
    /// <exception cref="InputProblem">When it does not fit any more, saying why.</exception>
    public static (ProgramText Program, int Line) Take(ProgramText text, Vocabulary words, LineOffer offer)
    {
        InputProblem Not(string why) => new("offer", $"{why} Put it in by hand if you want it: {offer.Say}");
        var (script, marks) = (text.Script, text.Marks);
        IReadOnlyList<ProgramBlock> Now() => ProgramDifference.Blocks(ScriptParser.Parse(script, words).Program);
        int Do(OutlineAct act, int at, string? said)
        {
            var done = Outline.Apply(script, marks, new(act, at, said), words);
            (script, marks) = (done.Script, done.Marks);
            return done.Line;
        }
        var blocks = Now();
        var block = blocks.FirstOrDefault(b => b.Name == offer.Where);
        var line = 0;
        if (offer.OfState && offer.Kind == ChangeKind.Added)
        {
            if (block is not null)
                throw Not($"Your program has a {offer.Where} already.");
            line = Do(OutlineAct.AddState, blocks.FirstOrDefault(b => b.Name == offer.Below)?.Line ?? 0, offer.After);
            var below = line;
            foreach (var sentence in offer.Lines)
                below = Do(OutlineAct.Add, below, sentence);
            return Kept(line);
        }
        if (block is null)
            throw Not($"Your program has no {offer.Where} any more.");
        if (offer.OfState)
            return Kept(Do(OutlineAct.TakeOut, block.Line, null));
        int? Find(string? sentence) =>
            sentence is null ? null : block.Lines.Where(l => l.Text == sentence).Select(l => (int?)l.Line).FirstOrDefault();
        if (offer.After is { } wanted && Find(wanted) is not null)
            throw Not("Your program says it already.");
        if (offer.Before is { } was)
        {
            if (Find(was) is not { } stands)
                throw Not($"“{was}” does not stand in your {offer.Where} any more.");
            if (offer.Kind == ChangeKind.Changed)
                return Kept(Do(OutlineAct.Set, stands, offer.After));
            line = Do(OutlineAct.TakeOut, stands, null);
            if (offer.Kind == ChangeKind.TakenOut)
                return Kept(line);
            block = Now().First(b => b.Name == offer.Where);
        }
        // Below the sentence that it stands below there; where that is gone, first.
        return Kept(Do(OutlineAct.Add, Find(offer.Below) ?? block.Line, offer.After ?? offer.Before));

        (ProgramText, int) Kept(int at) => (text with { Script = script, Marks = marks, Meaning = ProgramText.MeaningNow }, at);
    }
}
