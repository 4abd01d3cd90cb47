using Chiton.Core.Classroom;

namespace Chiton.Data.Demo;

/// <summary>The challenges that ship with the demo: one with a field for each team, one with both on the same deck.</summary>
public static class FarmChallenges
{
    /// <summary>Both, by their addresses.</summary>
    public static IReadOnlyList<(string Id, Challenge Challenge)> All { get; } =
    [
        (
            "crumbs-overboard",
            new(
                "Crumbs overboard",
                "Push the crumbs of shell off the deck and stay on it yourselves. Each team has a deck of its own; both begin at the same "
                    + "call.",
                [
                    "A crumb counts once it lies off the deck when the time is up.",
                    "Who is over the edge stays where it fell until the time is up.",
                    "The program is not changed between two heats of a round.",
                ],
                "deck-scrubber",
                """
                scene Crumbs overboard
                ends after 60 s

                deck 760 by 560 mm of deck, drop beyond

                place middle 520 by 320 mm at (350, 280)

                10 things crumb round 18 mm 3 g at random on middle, 60 mm apart

                start Drive at (120, 130) facing 0 robot deg give or take 6 mm and 1.5 robot deg

                score 10 for each crumb off the deck
                score -30 when robot over the edge

                """,
                HeatScore.Points,
                false,
                null,
                1,
                10,
                0,
                1,
                0
            )
        ),
        (
            "last-on-the-deck",
            new(
                "Last on the deck",
                "Two machines on one deck, each with a buoy on its nose. Keep yours, and stay on the deck, longer than the other.",
                [
                    "Both are put down by their own teams, on their marks.",
                    "A buoy that stands on the deck or lies beside it has fallen.",
                    "Where both fall in the same moment, nobody wins.",
                ],
                "deck-scrubber",
                """
                scene Last on the deck
                ends after 45 s

                deck 1000 by 700 mm of deck, drop beyond

                thing buoy round 30 mm 20 g, on Drive at (0, 70), 40 mm high, friction 0.5, knocked off by a touch

                start Drive at (250, 200) facing 0 robot deg give or take 10 mm and 3 robot deg

                """,
                HeatScore.Stays,
                true,
                new(750, 500, 180),
                0,
                0,
                0,
                1,
                0.2
            )
        ),
    ];
}
