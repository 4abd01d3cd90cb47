using System.Diagnostics;
using System.Text;
using System.Threading.Channels;
using Chiton.Core.Programs.Outside;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Server.App.Lines;

/// <summary>Whether somebody answers on a line.</summary>
public enum LineStanding
{
    /// <summary>It is being joined for the first time.</summary>
    Joining,

    /// <summary>Somebody answers.</summary>
    Joined,

    /// <summary>The plug is out: it is tried again and again.</summary>
    Out,
}

/// <summary>The plug of a line came out.</summary>
public sealed class LineBroke(string say) : Exception(say);

/// <summary>What a line is, at a moment.</summary>
/// <param name="To">Where it goes.</param>
/// <param name="Standing">Whether somebody answers.</param>
/// <param name="ForS">For how long it is so, s.</param>
/// <param name="Say">What is wrong, in words; empty for nothing.</param>
/// <param name="Joins">How often somebody answered anew.</param>
public sealed record LineNow(string To, LineStanding Standing, double ForS, string Say, int Joins);

/// <summary>
/// A line to a real thing, or to a box. It is joined, watched, and joined again by itself whenever it breaks, until it is let go. Whoever
/// listens is told of each line that counts, in order.
/// </summary>
public sealed class Line : IAsyncDisposable
{
    /// <summary>So long after the last line somebody who says nothing is asked whether he is there.</summary>
    private static readonly TimeSpan AskAfter = TimeSpan.FromMilliseconds(500);

    /// <summary>So long after the last line the plug is taken for out: it is said within two seconds.</summary>
    private static readonly TimeSpan OutAfter = TimeSpan.FromMilliseconds(1500);

    private static readonly TimeSpan ConnectWithin = TimeSpan.FromMilliseconds(1500),
        HelloWithin = TimeSpan.FromSeconds(8),
        AgainAfter = TimeSpan.FromMilliseconds(400),
        AnswerWithin = TimeSpan.FromMilliseconds(1400);

    // A hello that was asked for may come so late: a board that was still starting answers all that waited in its port.
    private static readonly TimeSpan HelloLate = TimeSpan.FromSeconds(5);

    // Where every time goes back its clock was misheard at its hello, or it was started anew and its hello is lost: it is asked who it is.
    private const int BackUntilAsked = 20;
    private static readonly TimeSpan AskedForBack = TimeSpan.FromSeconds(10);

    /// <summary>Shortest run that is one, s.</summary>
    public const double ShortestRunS = 0.1;

    private static readonly TimeSpan BetweenRuns = TimeSpan.FromMilliseconds(100);

    private readonly LineWay way;
    private readonly SerialPorts ports;
    private readonly Action<Line> changed;
    private readonly Action<Line, BoxRun> ran;
    private readonly Lock gate = new();
    private readonly CancellationTokenSource stopping = new();
    private readonly List<Action<BoxMessage>> listeners = [];

    // Whoever waits for an answer; of a question who is there, how many had said hello when it was asked.
    private readonly List<(TaskCompletionSource<string?> Answer, long? Hellos)> waiting = [];
    private readonly Dictionary<string, int> wanted = [];
    private readonly BoxRuns runs = new();
    private readonly BoxClock clock = new();
    private readonly SemaphoreSlim writing = new(1, 1);
    private readonly Task loop;
    private BoxWatch watch;
    private Stream? stream;
    private LineEnd end = new();
    private LineStanding standing = LineStanding.Joining;
    private readonly long began = Stopwatch.GetTimestamp();
    private long since = Stopwatch.GetTimestamp(),
        heard,
        lastRun,
        late,
        askedBack,
        hellos;
    private string wrong = "";
    private int joins;
    private string? held;
    private int revision;

    /// <summary>Joins a line.</summary>
    /// <param name="way">Where it goes.</param>
    /// <param name="ports">The serial ports of this machine.</param>
    /// <param name="rig">The rig, by which it is judged what is said.</param>
    /// <param name="revision">Its revision.</param>
    /// <param name="changed">Told when somebody answers, or does not any more, or says what it runs.</param>
    /// <param name="ran">Told of each run that ended.</param>
    public Line(LineWay way, SerialPorts ports, RigDesign rig, int revision, Action<Line> changed, Action<Line, BoxRun> ran)
    {
        (this.way, this.ports, this.changed, this.ran) = (way, ports, changed, ran);
        watch = new(rig);
        runs.First = watch.First;
        this.revision = revision;
        loop = Task.Run(Go);
    }

    /// <summary>What it is now.</summary>
    public LineNow Now
    {
        get
        {
            lock (gate)
                return new(way.ToString(), standing, Stopwatch.GetElapsedTime(since).TotalSeconds, wrong, joins);
        }
    }

    // Since it was joined for the first time, µs.
    private long Micros => Stopwatch.GetElapsedTime(began).Ticks / TimeSpan.TicksPerMicrosecond;

    /// <summary>True when somebody answers.</summary>
    public bool IsJoined => Now.Standing == LineStanding.Joined;

    /// <summary>What ends all that goes on over it from now on: the plug comes out, or the board is started anew. It has come already
    /// where the plug is out.</summary>
    public LineEnd End
    {
        get
        {
            lock (gate)
                return end;
        }
    }

    /// <summary>Looks at what was said so far, while nothing comes in between.</summary>
    public T Look<T>(Func<BoxWatch, BoxRuns, T> at)
    {
        lock (gate)
        {
            watch.NowMicros = Micros;
            return at(watch, runs);
        }
    }

    /// <summary>The rig was changed: from here on it is judged by the new one.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="number">Its revision.</param>
    public void Of(RigDesign rig, int number)
    {
        lock (gate)
        {
            if (revision == number)
                return;
            revision = number;
            watch = watch.For(rig);
            runs.First = watch.First;
        }
    }

    /// <summary>Listens to all that counts, until it is disposed.</summary>
    /// <param name="told">Told of each line, in order; it must be quick.</param>
    public IDisposable Listen(Action<BoxMessage> told)
    {
        lock (gate)
            listeners.Add(told);
        return new Listening(this, told);
    }

    private sealed class Listening(Line line, Action<BoxMessage> told) : IDisposable
    {
        public void Dispose()
        {
            lock (line.gate)
                line.listeners.Remove(told);
        }
    }

    /// <summary>Says a line and waits for its answer.</summary>
    /// <param name="message">The line.</param>
    /// <param name="cancel">Waits no longer.</param>
    /// <returns>Why it was refused; null where it was not.</returns>
    /// <exception cref="LineBroke">When the plug is out, or comes out before the answer.</exception>
    /// <exception cref="InputProblem">When it is more than one line, or too long.</exception>
    public async Task<string?> Say(BoxMessage message, CancellationToken cancel)
    {
        var text = message.ToString();
        // Names come from outside: with a line feed in one of them something else would be told as well.
        if (text.Length > BoxLine.Longest || text.Any(char.IsControl))
            throw new InputProblem("line", $"A line has at most {BoxLine.Longest} characters, and no signs that cannot be seen.");
        var answer = new TaskCompletionSource<string?>(TaskCreationOptions.RunContinuationsAsynchronously);
        await writing.WaitAsync(cancel);
        try
        {
            Stream to;
            lock (gate)
            {
                if (message is BoxAsk { Words: "start" })
                    runs.Starts();
                to = standing == LineStanding.Joined && stream is { } open ? open : throw new LineBroke($"The line to {way} is out.");
                waiting.Add((answer, message is BoxAsk { Words: "" } ? hellos : null));
            }
            try
            {
                using var within = CancellationTokenSource.CreateLinkedTokenSource(stopping.Token);
                within.CancelAfter(AnswerWithin);
                await to.WriteAsync(Encoding.UTF8.GetBytes(text + "\n"), within.Token);
                await to.FlushAsync(within.Token);
            }
            catch (Exception e)
                when (e is IOException or ObjectDisposedException or InvalidOperationException or OperationCanceledException)
            {
                throw new LineBroke($"The line to {way} broke.");
            }
        }
        finally
        {
            writing.Release();
        }
        try
        {
            return await answer.Task.WaitAsync(AnswerWithin, cancel);
        }
        catch (TimeoutException)
        {
            lock (gate)
            {
                NoAnswer(answer);
                Complain("answers", "It does not answer what it is told. A box says ok to each line, or no and why.");
            }
            return null;
        }
    }

    // One that never answers must not have the answers to what is said later.
    private void NoAnswer(TaskCompletionSource<string?> answer)
    {
        if (waiting.FindIndex(w => w.Answer == answer) is >= 0 and var at)
            Over(at);
    }

    // Nobody waits for this answer any more. A hello that was asked for and has not come may come yet.
    private void Over(int at)
    {
        if (waiting[at].Hellos == hellos)
            late = Stopwatch.GetTimestamp();
        waiting.RemoveAt(at);
    }

    private void Complain(string about, string say)
    {
        watch.NowMicros = Micros;
        watch.Complain(about, say);
    }

    // Somebody here asked who is there, and has no answer yet.
    private bool Asked => waiting.Exists(w => w.Hellos is not null) || late != 0 && Stopwatch.GetElapsedTime(late) < HelloLate;

    /// <summary>Asks for readings of a sensor, until it is disposed. Several may ask: it is quiet once none does.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="cancel">Waits no longer.</param>
    /// <exception cref="InputProblem">When the board refuses.</exception>
    /// <exception cref="LineBroke">When the plug is out.</exception>
    public async Task<IAsyncDisposable> Want(string sensor, CancellationToken cancel)
    {
        lock (gate)
            wanted[sensor] = wanted.GetValueOrDefault(sensor) + 1;
        try
        {
            if (await Say(new BoxTell(sensor), cancel) is { } no)
                throw new InputProblem("sensor", $"The board refuses: {no}");
        }
        catch
        {
            Unwant(sensor);
            throw;
        }
        return new Wanting(this, sensor);
    }

    private bool Unwant(string sensor)
    {
        lock (gate)
        {
            wanted[sensor]--;
            if (wanted[sensor] > 0)
                return false;
            wanted.Remove(sensor);
            return true;
        }
    }

    private sealed class Wanting(Line line, string sensor) : IAsyncDisposable
    {
        public async ValueTask DisposeAsync()
        {
            if (!line.Unwant(sensor))
                return;
            try
            {
                await line.Say(new BoxQuiet(sensor), CancellationToken.None);
            }
            catch (LineBroke)
            {
                // Nothing is quieter.
            }
        }
    }

    private async Task Go()
    {
        var bytes = new byte[1 << 16];
        while (!stopping.IsCancellationRequested)
        {
            var why = "";
            try
            {
                using var within = CancellationTokenSource.CreateLinkedTokenSource(stopping.Token);
                within.CancelAfter(ConnectWithin);
                var (opened, owner) = await way.Open(ports, within.Token);
                using (owner)
                    why = await Hear(opened, owner, bytes);
            }
            catch (OperationCanceledException) when (stopping.IsCancellationRequested)
            {
                break;
            }
            catch (OperationCanceledException)
            {
                why = $"{way} does not answer.";
            }
            catch (Exception e)
            {
                // Whatever it is, it is said, and tried again.
                why = e.Message;
            }
            Out(why);
            try
            {
                await Task.Delay(AgainAfter, stopping.Token);
            }
            catch (OperationCanceledException)
            {
                break;
            }
        }
    }

    // Until the plug comes out: says why.
    private async Task<string> Hear(Stream opened, IDisposable owner, byte[] bytes)
    {
        var framing = new BoxFraming();
        heard = Stopwatch.GetTimestamp();
        lock (gate)
            stream = opened;
        using var over = CancellationTokenSource.CreateLinkedTokenSource(stopping.Token);
        var asking = Task.Run(() => Ask(opened, owner, over.Token), CancellationToken.None);
        try
        {
            while (true)
            {
                int count;
                try
                {
                    count = await opened.ReadAsync(bytes, over.Token);
                }
                catch (Exception e)
                    when (e is IOException or ObjectDisposedException or InvalidOperationException or OperationCanceledException)
                {
                    return PlugOut();
                }
                if (count == 0)
                    return PlugOut();
                heard = Stopwatch.GetTimestamp();
                Take(framing, bytes.AsSpan(0, count));
            }
        }
        finally
        {
            await over.CancelAsync();
            await asking;
        }
    }

    private string PlugOut() =>
        stopping.IsCancellationRequested ? ""
        : Now.Joins > 0 ? "The plug is out."
        : $"{way} is open, but nobody says hello there: “chiton 1” and a name.";

    // Asks who is there, and from then on whether he still is: a cable that was cut in the middle says nothing by itself.
    private async Task Ask(Stream to, IDisposable owner, CancellationToken over)
    {
        try
        {
            var asked = 0L;
            while (true)
            {
                var quiet = Stopwatch.GetElapsedTime(Volatile.Read(ref heard));
                var (joined, ago) = (IsJoined, asked == 0 ? TimeSpan.MaxValue : Stopwatch.GetElapsedTime(asked));
                // A board that is started by being plugged in needs its time before it says hello.
                if (quiet > (joined ? OutAfter : HelloWithin))
                {
                    owner.Dispose();
                    return;
                }
                if (joined && NobodyKnowsTheTime())
                    _ = WhoIsThere(to, over);
                if (joined ? quiet > AskAfter && ago > AskAfter : ago > TimeSpan.FromSeconds(1))
                {
                    asked = Stopwatch.GetTimestamp();
                    _ = joined ? There(over) : WhoIsThere(to, over);
                }
                await Task.Delay(100, over);
            }
        }
        catch (Exception e) when (e is IOException or ObjectDisposedException or InvalidOperationException or OperationCanceledException)
        {
            // Whoever reads notices it too.
        }
    }

    private bool NobodyKnowsTheTime()
    {
        lock (gate)
        {
            if (watch.BackInARow < BackUntilAsked || askedBack != 0 && Stopwatch.GetElapsedTime(askedBack) < AskedForBack)
                return false;
            askedBack = Stopwatch.GetTimestamp();
            return true;
        }
    }

    // Its answer is waited for as that of any line, or it would be taken for the answer to what is said next. A board that was still
    // starting never answers.
    private async Task WhoIsThere(Stream to, CancellationToken over)
    {
        var answer = new TaskCompletionSource<string?>(TaskCreationOptions.RunContinuationsAsynchronously);
        try
        {
            await writing.WaitAsync(over);
            try
            {
                lock (gate)
                    waiting.Add((answer, hellos));
                await to.WriteAsync("?\n"u8.ToArray(), over);
                await to.FlushAsync(over);
            }
            finally
            {
                writing.Release();
            }
            await answer.Task.WaitAsync(AnswerWithin, over);
        }
        catch (Exception e)
            when (e
                    is IOException
                        or ObjectDisposedException
                        or InvalidOperationException
                        or OperationCanceledException
                        or TimeoutException
                        or LineBroke
            )
        {
            lock (gate)
                NoAnswer(answer);
        }
    }

    private async Task There(CancellationToken over)
    {
        try
        {
            await Say(new BoxAsk("there"), over);
        }
        catch (Exception e) when (e is LineBroke or OperationCanceledException)
        {
            // That is just what was asked.
        }
    }

    private void Take(BoxFraming framing, ReadOnlySpan<byte> bytes)
    {
        var news = false;
        List<BoxRun>? ended = null;
        LineEnd? came = null;
        var now = Micros;
        lock (gate)
        {
            watch.NowMicros = now;
            framing.Take(
                bytes,
                watch.Names,
                said =>
                {
                    // Somebody who only says again who he is, as he was asked, goes on with what he does.
                    var asked = said is BoxHello && standing == LineStanding.Joined && Asked;
                    var message = clock.Of(said, now, asked);
                    if (message is BoxOk or BoxNo && waiting.Count > 0)
                    {
                        waiting[0].Answer.TrySetResult((message as BoxNo)?.Reason);
                        Over(0);
                    }
                    if (!watch.Take(message, asked))
                        return;
                    if (message is BoxHello)
                    {
                        news = true;
                        hellos++;
                        if (standing == LineStanding.Joined && !asked)
                        {
                            end.Come("The board was started anew.");
                            came ??= end;
                            Complain(
                                "anew",
                                "It was started anew by itself, and what it did is over. A weak pack or a loose plug does that to a board "
                                    + "when its motors start."
                            );
                        }
                        if (!asked)
                        {
                            (standing, since, wrong) = (LineStanding.Joined, Stopwatch.GetTimestamp(), "");
                            end = new();
                            joins++;
                            runs.Joined();
                        }
                    }
                    if (message is BoxHolds h && h.Hash != held)
                        (held, news) = (h.Hash, true);
                    if (!asked && runs.Take(message) is { } run && IsRun(run))
                        (ended ??= []).Add(run);
                    if (message is BoxState)
                        news = true;
                    foreach (var told in listeners)
                        told(message);
                }
            );
        }
        came?.Tell();
        if (news)
            changed(this);
        foreach (var run in ended ?? [])
            ran(this, run);
    }

    // What ends as it begins is no run, and nobody starts a machine many times a second: what tells so must not fill the log.
    private bool IsRun(BoxRun run)
    {
        if (run.Seconds < ShortestRunS)
            return false;
        var soon = lastRun != 0 && Stopwatch.GetElapsedTime(lastRun) < BetweenRuns;
        if (soon)
            Complain("runs", "Its runs follow each other faster than anybody can start them: not all of them are kept.");
        else
            lastRun = Stopwatch.GetTimestamp();
        return !soon;
    }

    private void Out(string why)
    {
        BoxRun? run;
        bool news;
        LineEnd ends;
        lock (gate)
        {
            stream = null;
            held = null;
            news = standing == LineStanding.Joined || wrong != why;
            if (standing == LineStanding.Joined)
                since = Stopwatch.GetTimestamp();
            standing = standing == LineStanding.Joining && joins == 0 ? LineStanding.Joining : LineStanding.Out;
            wrong = why;
            run = runs.Break("the line broke") is { } cut && IsRun(cut) ? cut : null;
            ends = end;
            ends.Come("The line broke.");
            foreach (var (answer, _) in waiting)
                answer.TrySetException(new LineBroke($"The line to {way} broke."));
            waiting.Clear();
            late = 0;
        }
        ends.Tell();
        if (run is not null)
            ran(this, run);
        if (news)
            changed(this);
    }

    /// <summary>Lets it go.</summary>
    public async ValueTask DisposeAsync()
    {
        await stopping.CancelAsync();
        lock (gate)
            stream?.Dispose();
        await loop;
        Out("");
        stopping.Dispose();
    }
}
