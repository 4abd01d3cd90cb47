using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Outside;

/// <summary>
/// Holds the times of a board against the desk's own clock. A clock of 32 bits runs over after 4294.967296 s, some 71 minutes, and begins
/// at 0 again: by itself that cannot be told from a clock that went back, but as long as has passed at the desk has passed on the board,
/// give or take the spread of cheap clocks, so it is carried on. A time that is far ahead is doubted, for one wrong digit on a bad cable
/// would make all that comes after it go back: when the next line says so too, the clock did go ahead. Whatever else does not fit is left
/// as it was said, to be called out.
/// </summary>
public sealed class BoxClock
{
    /// <summary>Where a clock of 32 bits runs over, µs.</summary>
    public const long Over = 1L << 32;

    /// <summary>How far a line may come late, µs.</summary>
    public const long SlackMicros = 2_000_000;

    /// <summary>How far ahead a time may be before it is doubted, µs.</summary>
    public const long AheadMicros = 5_000_000;

    /// <summary>One in so many: how far the clocks of the board and of the desk may be apart.</summary>
    public const long DriftShare = 100;

    private bool heard,
        wide,
        again;
    private long over,
        last,
        desk;
    private (long At, long Desk)? doubted;

    /// <summary>A line with its time carried on; other lines, and times that need it not, as they are; one that is doubted as a line that
    /// nobody understands.</summary>
    /// <param name="message">The line. A hello begins anew.</param>
    /// <param name="deskMicros">When it came, by a clock of the desk that never goes back, µs.</param>
    /// <param name="asked">True for a hello that was asked for: the next time that fits what was before goes on.</param>
    public BoxMessage Of(BoxMessage message, long deskMicros, bool asked = false)
    {
        switch (message)
        {
            case BoxHello when asked:
                again = true;
                return message;
            case BoxHello:
                Anew();
                return message;
            case BoxReading r:
                return At(r.Micros, deskMicros) is not { } read ? Doubted(r, r.Micros)
                    : read == r.Micros ? r
                    : r with { Micros = read };
            case BoxState s:
                return At(s.Micros, deskMicros) is not { } said ? Doubted(s, s.Micros)
                    : said == s.Micros ? s
                    : s with { Micros = said };
            default:
                return message;
        }
    }

    private BoxStrange Doubted(BoxMessage message, long micros) =>
        new(
            message.ToString(),
            $"Its time, {Figures.Show(micros * 1e-6, 6)} s, is far ahead of the line before, "
                + $"{Figures.Show((last - over) * 1e-6, 6)} s, and less has passed here. "
                + "Where the next line says so too, its clock went ahead."
        );

    private void Anew() => (heard, wide, again, over, doubted) = (false, false, false, 0, null);

    private long Slack(long passed) => SlackMicros + passed / DriftShare;

    // A time with what its clock ran over so far, and now; and whether it has more than 32 bits, as what says so once has.
    private (long At, long Over, bool Wide) Carried(long micros, long now)
    {
        if (wide || micros >= Over)
            return (micros, over, true);
        var at = micros + over;
        var passed = now - desk;
        var due = last + passed;
        var times = (long)Math.Round((due - at) / (double)Over);
        var carried = at + times * Over;
        // Less than before, too: one that was read before the clock ran over may come after one that was read since.
        return heard && times != 0 && carried >= 0 && Math.Abs(carried - due) <= Slack(passed)
            ? (carried, over + times * Over, false)
            : (at, over, false);
    }

    // Null for one that is doubted.
    private long? At(long micros, long now)
    {
        if (again && Math.Abs(Carried(micros, now).At - last - (now - desk)) > Slack(now - desk))
            Anew();
        again = false;
        var (at, carry, wider) = Carried(micros, now);
        if (heard && at - last - (now - desk) > AheadMicros + (now - desk) / DriftShare)
        {
            var too = doubted is { } d && at >= d.At && at - d.At <= AheadMicros + (now - d.Desk);
            doubted = (at, now);
            if (!too)
                return null;
        }
        (wide, over, doubted) = (wider, carry, null);
        // A time that is called out as gone back says nothing of when the next one is due.
        if (!heard || at >= last)
            (heard, last, desk) = (true, at, now);
        return at;
    }
}
