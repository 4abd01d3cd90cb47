using System.Collections.Concurrent;
using System.Diagnostics;
using Chiton.Core.Quantities;
using Chiton.Core.Simulation;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Server.App;

/// <summary>What is told of a bench that plays: first what it is made of, then moment after moment.</summary>
/// <param name="Place">The place to scale; in the first alone.</param>
/// <param name="About">What it is made of; in the first alone.</param>
/// <param name="Moment">The moment; null in the first.</param>
/// <param name="Rate">How fast it really goes, bench seconds a second; below what was asked for where the machine cannot keep up.</param>
/// <param name="Refused">Why nothing plays; null where something does.</param>
public sealed record PlayFrame(ScenePlan? Place, LiveStart? About, LiveMoment? Moment, double Rate, string? Refused);

/// <summary>A bench that somebody plays with.</summary>
public sealed class Play
{
    /// <summary>Speeds that can be asked for: stopped, a tenth, half, full, twice and four times.</summary>
    public static readonly IReadOnlyList<double> Paces = [0, 0.1, 0.5, 1, 2, 4];

    // A frame's share of the machine: what takes longer goes slower and says so.
    private static readonly TimeSpan Most = TimeSpan.FromMilliseconds(24);

    private readonly Lock locked = new();
    private readonly SemaphoreSlim pressed = new(0);
    private readonly LiveBench bench;
    private double pace = 1;
    private bool steps,
        fresh = true;
    private double rate = 1;

    /// <summary>The scene as it is in this run.</summary>
    public Core.Simulation.Scenes.SceneNode Scene => bench.Scene;

    /// <summary>Puts it down.</summary>
    public Play(BenchPlan plan, long seed)
    {
        bench = new(plan, seed);
        Begun = DateTime.UtcNow;
    }

    /// <summary>When it began.</summary>
    public DateTime Begun { get; }

    /// <summary>What it is made of.</summary>
    public LiveStart About()
    {
        lock (locked)
            return bench.About();
    }

    /// <summary>Begins or leaves off something.</summary>
    public void Do(int hand, bool begins, double? amount)
    {
        lock (locked)
        {
            bench.Ask(hand, begins, amount);
            fresh = true;
        }
        // It is seen at once, not only with the next frame.
        pressed.Release();
    }

    /// <summary>Waits for the time of the next frame, or until something is done.</summary>
    public async Task Wait(TimeSpan most, CancellationToken cancel)
    {
        await pressed.WaitAsync(most, cancel);
        // Whatever was done meanwhile is in one frame.
        while (pressed.Wait(0, cancel))
            continue;
    }

    /// <summary>Sets how fast it goes.</summary>
    /// <exception cref="InputProblem">When it is none of <see cref="Paces"/>.</exception>
    public void Go(double to)
    {
        if (!Paces.Contains(to))
            throw new InputProblem("pace", $"Must be one of {string.Join(", ", Paces)}.");
        lock (locked)
            (pace, fresh) = (to, true);
    }

    /// <summary>Goes to the next transition and stops there.</summary>
    public void StepOn()
    {
        lock (locked)
            (steps, pace) = (true, 0);
    }

    /// <summary>The scene with what was done.</summary>
    public string Kept(string name)
    {
        lock (locked)
            return bench.Kept(name);
    }

    /// <summary>Goes on for a frame; null when nothing is new.</summary>
    /// <param name="elapsed">Time since the frame before.</param>
    /// <param name="cancel">Stops it.</param>
    public PlayFrame? Frame(TimeSpan elapsed, CancellationToken cancel)
    {
        lock (locked)
        {
            var watch = Stopwatch.StartNew();
            var before = bench.TimeS;
            if (steps)
            {
                // To the next transition, in as many frames as it takes.
                steps = !bench.Ended && !bench.ToNextTransition(() => watch.Elapsed > Most, cancel);
                fresh = true;
            }
            else if (pace > 0 && !bench.Ended)
            {
                // A machine that slept does not jump ahead.
                var wanted = Math.Min(0.25, elapsed.TotalSeconds) * pace;
                while (bench.TimeS - before < wanted && watch.Elapsed < Most && !bench.Ended)
                    bench.Advance(Math.Min(0.01, wanted - (bench.TimeS - before)), cancel);
                rate = 0.9 * rate + 0.1 * (bench.TimeS - before) / Math.Max(1e-3, elapsed.TotalSeconds);
                fresh = true;
            }
            else if (fresh && !bench.Ended)
                // What is pressed while it stands is taken up, and seen once time goes on.
                bench.Advance(0, cancel);
            if (!fresh)
                return null;
            fresh = false;
            return new(null, null, bench.Look(), Math.Round(rate, 3), null);
        }
    }

    /// <summary>True once its scene is over.</summary>
    public bool Ended
    {
        get
        {
            lock (locked)
                return bench.Ended;
        }
    }
}

/// <summary>All benches that play now. A page has one at a time; what was done stays known until the page goes or begins another.</summary>
public sealed class Plays
{
    /// <summary>Most that play at once.</summary>
    public const int Most = 6;

    private readonly ConcurrentDictionary<string, Play> playing = new();
    private readonly Lock begins = new();

    /// <summary>Begins one for a page; the one before ends.</summary>
    /// <exception cref="TooBusy">When too many play.</exception>
    public void Begin(string page, Play play)
    {
        lock (begins)
        {
            // One whose scene is over is only looked at: it holds no place.
            if (!playing.ContainsKey(page) && (playing.Values.Count(p => !p.Ended) >= Most || playing.Count >= 10 * Most))
                throw new TooBusy($"{Most} benches are being played with already. Try again when one of them has ended.");
            playing[page] = play;
        }
    }

    /// <summary>The one of a page.</summary>
    /// <exception cref="InputProblem">When it has none.</exception>
    public Play Of(string page) =>
        playing.TryGetValue(page, out var play) ? play : throw new InputProblem("play", "Nothing plays on this page.");

    /// <summary>True while this is still the one of a page.</summary>
    public bool Is(string page, Play play) => playing.TryGetValue(page, out var now) && ReferenceEquals(now, play);

    /// <summary>The page goes.</summary>
    public void End(string page) => playing.TryRemove(page, out _);
}
