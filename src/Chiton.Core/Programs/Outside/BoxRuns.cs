using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Outside;

/// <summary>A run of the real thing, as its lines told of it.</summary>
/// <param name="FromMicros">When it began, by the box's clock, µs.</param>
/// <param name="ToMicros">When it ended, or was heard of last.</param>
/// <param name="EndedIn">The last states of its programs, in words.</param>
/// <param name="Happened">What else was told, in words: stalls, moves that gave up, a line that broke.</param>
/// <param name="Whole">True when it came to its end; false when it was broken off.</param>
public sealed record BoxRun(long FromMicros, long ToMicros, string EndedIn, IReadOnlyList<string> Happened, bool Whole)
{
    /// <summary>How long it took by the box's clock, s.</summary>
    public double Seconds => (ToMicros - FromMicros) * 1e-6;
}

/// <summary>
/// Sees runs begin and end by themselves: one begins with the first state that is told of any program, and ends when each program that was
/// told of says that it runs no more (<c>state MICROS PROGRAM -</c>). A program that says its first state anew, a hello, or a time that
/// goes back begins another run: the one before was broken off.
/// </summary>
public sealed class BoxRuns
{
    private const int MostHappened = 20;

    private readonly Dictionary<string, string> last = [];
    private readonly HashSet<string> running = [];
    private readonly Dictionary<string, int> happened = [];
    private long from,
        to;
    private bool surely,
        midway;

    /// <summary>The states that programs begin in, by program; of one that is not known every first state is taken for its
    /// beginning.</summary>
    public IReadOnlyDictionary<string, IReadOnlySet<string>> First { get; set; } = new Dictionary<string, IReadOnlySet<string>>();

    /// <summary>Somebody answers anew: what goes on there may be under way already.</summary>
    public void Joined() => surely = false;

    /// <summary>It is started from here: what comes is its beginning.</summary>
    public void Starts() => surely = true;

    /// <summary>True while one goes on.</summary>
    public bool Going => running.Count > 0;

    /// <summary>When the one that goes on began, by the box's clock, µs.</summary>
    public long FromMicros => from;

    private void Begin(BoxState first)
    {
        var micros = first.Micros;
        midway =
            !surely
            && First.TryGetValue(first.Program, out var known)
            && !first.State.Split('+').Any(s => known.Contains(s[(s.LastIndexOf('.') + 1)..]));
        (from, to) = (micros, micros);
        last.Clear();
        happened.Clear();
    }

    private BoxRun End(bool whole)
    {
        if (midway)
            Note("it was under way before it was heard of");
        return new(
            from,
            to,
            string.Join(", ", last.Select(l => last.Count == 1 ? l.Value : $"{l.Key}: {l.Value}")),
            [.. happened.Select(h => h.Value == 1 ? h.Key : $"{h.Key} ({h.Value} times)")],
            whole && !midway
        );
    }

    /// <summary>The line is gone, or the box was begun anew: what went on is broken off.</summary>
    /// <param name="why">Why, in words.</param>
    /// <returns>The run that was broken off; null where none went on.</returns>
    public BoxRun? Break(string why)
    {
        if (!Going)
            return null;
        running.Clear();
        Note(why);
        return End(false);
    }

    private void Note(string what)
    {
        if (happened.Count < MostHappened || happened.ContainsKey(what))
            happened[what] = happened.GetValueOrDefault(what) + 1;
    }

    /// <summary>Takes up what counts.</summary>
    /// <param name="message">The line.</param>
    /// <returns>The run that it ended; null for none.</returns>
    public BoxRun? Take(BoxMessage message)
    {
        switch (message)
        {
            case BoxHello:
                return Break("the box was begun anew");
            case BoxStalls m when Going:
                Note($"{m.Name} stalled");
                return null;
            case BoxGivesUp m when Going:
                Note($"{m.Name} gave up");
                return null;
            case BoxState m:
            {
                BoxRun? broken = null;
                if (Going && m.Micros < to)
                    broken = Break("its clock went back");
                if (m.State == "-")
                {
                    // From here on it is heard when another one begins.
                    surely = true;
                    if (!running.Remove(m.Program))
                        return broken;
                    to = m.Micros;
                    return running.Count == 0 ? End(true) : broken;
                }
                if (!Going)
                    Begin(m);
                running.Add(m.Program);
                last[m.Program] = m.State;
                to = m.Micros;
                return broken;
            }
            default:
                return null;
        }
    }
}
