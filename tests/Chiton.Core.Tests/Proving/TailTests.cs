using Chiton.Core.Proving;

namespace Chiton.Core.Tests.Proving;

/// <summary>A program that goes round is noticed after three rounds, not before.</summary>
public class TailTests
{
    private static int[] Round(params int[] lines)
    {
        var tail = new Tries.Tail();
        foreach (var line in lines)
            tail.Add(line);
        return tail.Round();
    }

    [Fact]
    public void Three_rounds_are_one_and_two_are_none()
    {
        Assert.Equal([5, 9], Round(1, 9, 5, 9, 5, 9, 5));
        Assert.Empty(Round(1, 2, 9, 5, 9, 5));
        Assert.Empty(Round());
        Assert.Equal([4], Round(7, 4, 4, 4));
        Assert.Empty(Round(7, 4, 4));
    }

    [Fact]
    public void The_shortest_round_counts_and_begins_with_its_first_line()
    {
        Assert.Equal([3, 8, 5], Round(5, 3, 8, 5, 3, 8, 5, 3, 8));
        // Twice the same two are no round of four.
        Assert.Equal([1, 2], Round(1, 2, 1, 2, 1, 2, 1, 2, 1, 2, 1, 2));
        // One sentence more now and then, and it is none.
        Assert.Empty(Round(1, 2, 1, 2, 6, 1, 2));
    }

    [Fact]
    public void A_round_of_more_sentences_than_are_kept_is_none_and_what_was_before_is_forgotten()
    {
        int[] eight = [.. Enumerable.Range(1, 8)];
        Assert.Equal(eight, Round([.. eight, .. eight, .. eight]));
        int[] nine = [.. Enumerable.Range(1, 9)];
        Assert.Empty(Round([.. nine, .. nine, .. nine, .. nine]));
        int[] begun = [.. Enumerable.Range(100, 50)];
        Assert.Equal([1, 2], Round([.. begun, 2, 1, 2, 1, 2, 1]));
        var tail = new Tries.Tail();
        tail.Add(4);
        tail.Add(4);
        tail.Clear();
        tail.Add(4);
        Assert.Empty(tail.Round());
    }
}
