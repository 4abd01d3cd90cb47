using Chiton.Core.Classroom;
using Chiton.Core.Simulation;

namespace Chiton.Core.Tests.Classroom;

public class JoinCodeTests
{
    private static readonly HashSet<string> Nobody = [];

    private static Func<int, int> Luck(ulong seed)
    {
        var stream = new RandomStream(seed, 3);
        return n => (int)(stream.Uniform() * n);
    }

    [Fact]
    public void No_letter_of_a_code_looks_like_another_letter_or_a_figure()
    {
        Assert.Equal(JoinCode.Letters.Length, JoinCode.Letters.Distinct().Count());
        Assert.DoesNotContain(JoinCode.Letters, c => "ILOQSUZ".Contains(c) || !char.IsAsciiLetterUpper(c));
    }

    [Fact]
    public void Codes_have_their_length_and_every_letter_comes_about_as_often()
    {
        var luck = Luck(5);
        var count = JoinCode.Letters.ToDictionary(c => c, _ => 0);
        for (var i = 0; i < 5000; i++)
        {
            var code = JoinCode.Make(JoinCode.Usual, luck, Nobody);
            Assert.Equal(6, code.Length);
            foreach (var c in code)
                count[c]++;
        }
        var mean = 30000.0 / JoinCode.Letters.Length;
        Assert.All(count.Values, n => Assert.InRange(n, mean - 5 * Math.Sqrt(mean), mean + 5 * Math.Sqrt(mean)));
    }

    [Fact]
    public void A_code_that_is_taken_is_not_given_again()
    {
        // The first six draws make a code that is taken.
        int[] draws = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1];
        var at = 0;
        Assert.Equal("AAAAAB", JoinCode.Make(6, _ => draws[at++], new HashSet<string> { "AAAAAA" }));
    }

    [Theory]
    [InlineData("ABCDEF", "ABCDEF")]
    [InlineData(" abc def ", "ABCDEF")]
    [InlineData("abc-def", "ABCDEF")]
    [InlineData("ABCD EFGH", "ABCDEFGH")]
    [InlineData("ABCDE", null)]
    [InlineData("ABCDEFG", null)]
    [InlineData("ABCDE1", null)]
    [InlineData("ABCDEI", null)]
    [InlineData("", null)]
    [InlineData(null, null)]
    public void A_code_is_read_as_it_is_typed(string? typed, string? code) => Assert.Equal(code, JoinCode.Read(typed));

    [Fact]
    public void What_is_shown_is_read_back()
    {
        foreach (var n in new[] { JoinCode.Usual, JoinCode.Educator })
        {
            var code = JoinCode.Make(n, Luck(9), Nobody);
            Assert.Equal(code, JoinCode.Read(JoinCode.Show(code)));
            Assert.Contains(' ', JoinCode.Show(code));
        }
    }

    private static readonly DateTime Start = new(2026, 11, 29, 8, 0, 0, DateTimeKind.Utc);

    [Fact]
    public void After_ten_wrong_codes_an_address_waits_for_the_minute_to_end()
    {
        var tries = CodeTries.None;
        for (var i = 0; i < CodeTries.MostAMinute; i++)
        {
            Assert.Equal(TryVerdict.Free, tries.May("a", Start.AddSeconds(i)));
            tries = tries.After("a", Start.AddSeconds(i));
        }
        Assert.Equal(TryVerdict.Wait, tries.May("a", Start.AddSeconds(10)));
        Assert.Equal(TryVerdict.Free, tries.May("b", Start.AddSeconds(10)));
        Assert.Equal(TryVerdict.Wait, tries.May("a", Start.AddSeconds(59.9)));
        Assert.Equal(TryVerdict.Free, tries.May("a", Start.AddSeconds(60)));
        // One more wrong one, and it waits again.
        Assert.Equal(TryVerdict.Wait, tries.After("a", Start.AddSeconds(60)).May("a", Start.AddSeconds(60.5)));
    }

    [Theory]
    [InlineData(1)]
    [InlineData(7)]
    [InlineData(60)]
    public void After_sixty_from_however_many_addresses_joining_waits_for_the_desk(int addresses)
    {
        var tries = CodeTries.None;
        var now = Start;
        var wrong = 0;
        // However patient: an address that is told to wait, waits.
        while (!tries.Locked)
        {
            var from = $"{wrong % addresses}";
            if (tries.May(from, now) == TryVerdict.Free)
            {
                tries = tries.After(from, now);
                wrong++;
            }
            now = now.AddSeconds(7);
        }
        Assert.Equal(CodeTries.MostInAll, wrong);
        Assert.Equal(TryVerdict.Locked, tries.May("somebody new", now.AddDays(1)));
        Assert.Equal(TryVerdict.Free, CodeTries.None.May("0", now));
    }

    private static BoardTeam Team(long key, string name, int table, double? hand, double? changed, double since = 0) =>
        new(
            key,
            name,
            table,
            hand is { } h ? Start.AddMinutes(h) : null,
            changed is { } c ? Start.AddMinutes(c) : null,
            Start.AddMinutes(since)
        );

    [Fact]
    public void The_board_goes_by_seat_or_by_who_waits_longest()
    {
        BoardTeam[] teams =
        [
            Team(1, "Gulls", 3, null, 20),
            Team(2, "Crabs", 1, 30, 29),
            Team(3, "Eels", 2, null, null, 5),
            Team(4, "Dabs", 2, 25, 24),
        ];
        Assert.Equal([2, 4, 3, 1], Board.Order(teams, BoardOrder.Seat).Select(t => t.Team));
        Assert.Equal([4, 2, 3, 1], Board.Order(teams, BoardOrder.Stuck).Select(t => t.Team));
        Assert.Equal(Board.Order(teams, BoardOrder.Stuck), Board.Order(teams.Reverse(), BoardOrder.Stuck));
    }

    [Theory]
    [InlineData(20.0, 0.0, 25.0, 5)]
    [InlineData(20.0, 0.0, 20.99, 0)]
    [InlineData(null, 3.0, 10.0, 7)]
    [InlineData(20.0, 0.0, 19.0, 0)]
    public void Minutes_without_a_change_are_whole_and_never_below_nothing(double? changed, double since, double now, int minutes) =>
        Assert.Equal(minutes, Team(1, "Gulls", 1, null, changed, since).Unchanged(Start.AddMinutes(now)));

    [Fact]
    public void A_new_team_gets_a_free_table_and_a_name_of_its_own()
    {
        Assert.Equal(1, Board.FreeTable([]));
        Assert.Equal(3, Board.FreeTable([1, 2, 2, 5]));
        Assert.Equal("Gulls", Board.FreeName("Gulls", ["Crabs"]));
        Assert.Equal("gulls 3", Board.FreeName("gulls", ["Gulls", "GULLS 2"]));
        var longest = new string('x', ClassNames.MostLetters);
        Assert.Equal(ClassNames.MostLetters, Board.FreeName(longest, [longest]).Length);
    }
}
