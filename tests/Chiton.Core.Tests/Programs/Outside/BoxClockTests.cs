using Chiton.Core.Programs.Outside;

namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>Clocks of boards, held against the desk's own: those of 32 bits that run over, and times with a wrong digit.</summary>
public class BoxClockTests
{
    private const long Second = 1_000_000;
    private const long Over = BoxClock.Over;

    private static long Read(BoxClock clock, long micros, long desk, string name = "Tag eye") =>
        Assert.IsType<BoxReading>(clock.Of(new BoxReading(micros, name, [5.0], null), desk)).Micros;

    [Fact]
    public void A_clock_that_runs_over_goes_on_reading_by_reading()
    {
        var clock = new BoxClock();
        var (from, step) = (Over - 35_000, 10_000);
        for (var i = 0; i < 1000; i++)
            Assert.Equal(from + i * step, Read(clock, (from + i * step) % Over, 77 * Second + i * step));
        // States by the same clock.
        Assert.Equal(
            from + 1000L * step,
            Assert
                .IsType<BoxState>(clock.Of(new BoxState((from + 1000L * step) % Over, "Main", "Rolling"), 77 * Second + 1000L * step))
                .Micros
        );
    }

    [Theory]
    // Quiet for so long at the desk, s; the board's clock is off by so many parts in a thousand.
    [InlineData(20 * 60, 0)]
    [InlineData(50 * 60, 5)]
    [InlineData(50 * 60, -5)]
    [InlineData(72 * 60, 0)]
    [InlineData(200 * 60, 4)]
    [InlineData(1000 * 60, -4)]
    public void It_goes_on_after_a_silence_however_long_it_was(int quietS, int off)
    {
        var clock = new BoxClock();
        var from = 40 * 60 * Second;
        Assert.Equal(from, Read(clock, from, 0));
        var at = from + quietS * Second * (1000 + off) / 1000;
        Assert.Equal(at, Read(clock, at % Over, quietS * Second));
        Assert.Equal(at + 10_000, Read(clock, (at + 10_000) % Over, quietS * Second + 10_000));
    }

    [Theory]
    // Asked again who it is after so many seconds: one that goes on goes on, over the end of its 32 bits too; one that begins anew, or
    // whose first time was misheard, begins anew.
    [InlineData(10, 10, true)]
    [InlineData(30 * 60, 30 * 60, true)]
    [InlineData(10, 3, false)]
    [InlineData(30 * 60, 2, false)]
    public void A_hello_that_was_asked_for_leaves_a_clock_that_goes_on(int passedS, int since, bool same)
    {
        var clock = new BoxClock();
        var from = 60 * 60 * Second;
        Assert.Equal(from, Read(clock, from, 0));
        clock.Of(new BoxHello(1, "Rover", false), passedS * Second, asked: true);
        var said = same ? (from + since * Second) % Over : since * Second;
        Assert.Equal(same ? from + since * Second : said, Read(clock, said, passedS * Second));
        // What comes then is held against this one.
        Assert.Equal(same ? from + (since + 1) * Second : said + Second, Read(clock, (said + Second) % Over, (passedS + 1) * Second));
        // A wrong digit afterwards is doubted as ever.
        Assert.IsType<BoxStrange>(clock.Of(new BoxReading(said + 300 * Second, "Tag eye", [5.0], null), (passedS + 1) * Second + 10_000));
        // One that nobody asked for always begins anew.
        clock.Of(new BoxHello(1, "Rover", false), (passedS + 1) * Second);
        Assert.Equal(said + 2 * Second, Read(clock, said + 2 * Second, (passedS + 2) * Second));
    }

    [Fact]
    public void Far_ahead_of_nothing_is_not_far_ahead()
    {
        var clock = new BoxClock();
        clock.Of(new BoxHello(1, "Rover", false), 0, asked: true);
        Assert.Equal(9000 * Second, Read(clock, 9000 * Second, Second));
        clock.Of(new BoxHello(1, "Rover", false), 2 * Second, asked: true);
        Assert.Equal(3 * Second, Read(clock, 3 * Second, 2 * Second));
        Assert.Equal(4 * Second, Read(clock, 4 * Second, 3 * Second));
    }

    [Fact]
    public void What_was_read_before_and_comes_late_stays_before()
    {
        var clock = new BoxClock();
        Assert.Equal(Over - 20_000, Read(clock, Over - 20_000, 0));
        Assert.Equal(Over + 5_000, Read(clock, 5_000, 25_000));
        Assert.Equal(Over - 3_000, Read(clock, Over - 3_000, 26_000, "Other eye"));
        Assert.Equal(Over + 15_000, Read(clock, 15_000, 35_000));
    }

    [Theory]
    // A clock that goes back is left as it is, to be called out: by a little, by nearly all it can, and to the beginning.
    [InlineData(100, 99, 1)]
    [InlineData(4000, 5, 1)]
    [InlineData(4290, 100, 2)]
    [InlineData(2200, 0, 60)]
    [InlineData(4000, 3000, 600)]
    public void A_clock_that_goes_back_is_no_clock_that_runs_over(int before, int after, int passedS)
    {
        var clock = new BoxClock();
        Assert.Equal(before * Second, Read(clock, before * Second, 0));
        Assert.Equal(after * Second, Read(clock, after * Second, passedS * Second));
        // And what comes then is not held against it.
        Assert.Equal((before + passedS + 1) * Second, Read(clock, (before + passedS + 1) * Second, (passedS + 1) * Second));
    }

    [Fact]
    public void A_clock_that_stood_still_or_has_more_bits_is_left_alone()
    {
        // It slept for an hour and a half: by nothing can be known how long.
        var slept = new BoxClock();
        Assert.Equal(5 * Second, Read(slept, 5 * Second, 0));
        Assert.Equal(6 * Second, Read(slept, 6 * Second, 5400 * Second));
        // With 64 bits it passes the place, and nothing runs over later.
        var wide = new BoxClock();
        Assert.Equal(Over - Second, Read(wide, Over - Second, 0));
        Assert.Equal(Over + Second, Read(wide, Over + Second, 2 * Second));
        Assert.Equal(3 * Second, Read(wide, 3 * Second, 4 * Second));
    }

    [Fact]
    public void A_hello_begins_anew_and_what_has_no_time_is_left_alone()
    {
        var clock = new BoxClock();
        Read(clock, Over - 1000, 0);
        Assert.Equal(Over + 9_000, Read(clock, 9_000, 10_000));
        BoxMessage[] others = [new BoxOk(), new BoxBattery(7.4), new BoxDone("Trolley"), new BoxHello(1, "Seed trolley", false)];
        Assert.All(others, o => Assert.Same(o, clock.Of(o, 20_000)));
        Assert.Equal(30_000, Read(clock, 30_000, 30_000));
        // What needs nothing done is the same line, not a copy.
        var reading = new BoxReading(40_000, "Tag eye", [], null);
        Assert.Same(reading, clock.Of(reading, 40_000));
    }

    [Theory]
    [InlineData(9_912_345_678)]
    [InlineData(92_345_678)]
    [InlineData(999_999_999_999_999)]
    public void One_wrong_digit_costs_one_line_and_not_all_that_come_after_it(long wrong)
    {
        var clock = new BoxClock();
        Assert.Equal(12_345_678, Read(clock, 12_345_678, 0));
        var strange = Assert.IsType<BoxStrange>(clock.Of(new BoxReading(wrong, "Tag eye", [5.0], null), 10_000));
        Assert.Equal($"r {wrong} Tag eye 5", strange.Line);
        Assert.Contains("is far ahead of the line before, 12.3457 s", strange.Why);
        Assert.Equal(12_365_678, Read(clock, 12_365_678, 20_000));
        // And again, of a state: each is doubted by itself.
        Assert.IsType<BoxStrange>(clock.Of(new BoxState(wrong, "Main", "Rolling"), 30_000));
        Assert.Equal(12_385_678, Read(clock, 12_385_678, 40_000));
        // It is none of more bits by that: it runs over as before.
        Assert.Equal(Over + 5, Read(clock, 5, Over - 12_345_678));
    }

    [Fact]
    public void A_clock_that_did_go_ahead_is_believed_by_the_second_line()
    {
        var clock = new BoxClock();
        Assert.Equal(Second, Read(clock, Second, 0));
        Assert.IsType<BoxStrange>(clock.Of(new BoxReading(500 * Second, "Tag eye", [5.0], null), 10_000));
        Assert.Equal(500 * Second + 10_000, Read(clock, 500 * Second + 10_000, 20_000));
        Assert.Equal(500 * Second + 20_000, Read(clock, 500 * Second + 20_000, 30_000));
        // Two that have nothing to do with each other are two that are wrong.
        Assert.IsType<BoxStrange>(clock.Of(new BoxReading(900 * Second, "Tag eye", [5.0], null), 40_000));
        Assert.IsType<BoxStrange>(clock.Of(new BoxReading(3900 * Second, "Tag eye", [5.0], null), 50_000));
        Assert.IsType<BoxStrange>(clock.Of(new BoxReading(700 * Second, "Tag eye", [5.0], null), 60_000));
        Assert.Equal(500 * Second + 60_000, Read(clock, 500 * Second + 60_000, 70_000));
        // After a silence as much has passed, and nothing is doubted; several seconds at once neither.
        Assert.Equal(800 * Second, Read(clock, 800 * Second, 300 * Second));
        Assert.Equal(804 * Second, Read(clock, 804 * Second, 300 * Second));
    }
}
