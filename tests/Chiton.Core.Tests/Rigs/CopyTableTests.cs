namespace Chiton.Core.Tests.Rigs;

public class CopyTableTests
{
    private static Quantity Measured(double value, double error) => new(value, "mm/s", Provenance.Measured, "6 rolls", error);

    private static IReadOnlyList<CopyLine> Table(params Quantity?[] numbers) =>
        CopyTable.Compare([.. numbers.Select((q, i) => new CopyNumbers(i + 1, q is null ? [] : [("speed", q)]))]);

    [Fact]
    public void A_copy_that_differs_by_more_than_measuring_explains_deviates()
    {
        // Against 780 ± 5 and 784 ± 5, so 782 ± 3.54: 742 ± 6 lies 40 / 6.96 = 5.7 standard errors away.
        var line = Assert.Single(Table(Measured(780, 5), Measured(784, 5), Measured(742, 6)));
        Assert.Equal([false, false, true], line.Cells.Select(c => c.Deviates));
        Assert.Equal("Speed: copy 3 has 742 against 782 mm/s of the others, 5.7 standard errors.", line.Say);
    }

    [Fact]
    public void Copies_within_their_errors_do_not() =>
        Assert.Null(Assert.Single(Table(Measured(780, 5), Measured(784, 5), Measured(770, 6))).Say);

    [Fact]
    public void Two_copies_that_differ_are_said_once()
    {
        var line = Assert.Single(Table(Measured(780, 5), Measured(700, 5)));
        Assert.All(line.Cells, c => Assert.True(c.Deviates));
        Assert.Equal("Speed: copy 2 has 700 against 780 mm/s of the other, 11 standard errors.", line.Say);
    }

    [Fact]
    public void Guesses_are_shown_and_not_judged_and_decisions_are_left_out()
    {
        var guess = new Quantity(100, "mm/s", Provenance.Guessed, "typed in", 0, 0, 300);
        var line = Assert.Single(Table(Measured(780, 5), guess, null));
        Assert.All(line.Cells, c => Assert.False(c.Deviates));
        Assert.Equal([780, 100, null], line.Cells.Select(c => c.Value));
        Assert.Empty(Table(FarmBench.Sure(6), FarmBench.Sure(7)));
    }

    [Fact]
    public void Alike_copies_are_rarely_said_to_deviate()
    {
        var noise = new RandomStream(3, 3);
        var said = Enumerable
            .Range(0, 1000)
            .Count(_ => Table([.. Enumerable.Range(0, 6).Select(_ => Measured(780 + 5 * noise.Normal(), 5))])[0].Say is not null);
        // Six chances of 0.27 % each.
        Assert.InRange(said, 2, 40);
    }

    [Fact]
    public void A_new_copys_numbers_are_guesses_with_a_spread_of_their_own()
    {
        var guesses = FarmBench.Motion().AsGuesses("taken over from copy 1");
        Assert.All(
            guesses.Named.Where(n => n.Name != "nominal voltage"),
            n => Assert.True(n.Number is { Kind: Provenance.Guessed, BetweenRunsSd: > 0 }, n.Name)
        );
        Assert.Equal(FarmBench.Motion().FullSpeedMmPerS.Value, guesses.FullSpeedMmPerS.Value);
    }
}
