using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Simulation.Scenes;

namespace Chiton.Data.Demo;

/// <summary>The scenes of the demo rigs: the honest everyday first, then one that finds what is weak.</summary>
internal static class Scenes
{
    /// <summary>A rig with its scenes.</summary>
    public static RigDesign With(RigDesign rig) =>
        rig with
        {
            Scenes = (All.GetValueOrDefault(rig.Name) ?? []).Select(text => SceneStarts.Made(text, rig)).ToSequence(),
        };

    // One sentence of a scene, too long for a line of code.
    private const string BoatComes =
        "boat comes before Berth range from 1700 mm to 52 mm give or take 6 mm at 220 mm/s give or take 30 mm/s";

    private static readonly Dictionary<string, string[]> All = new()
    {
        ["Seed trolley"] =
        [
            """
                scene The closed rail

                rail 5200 mm of sleepers, closed
                marker depot of depot tag 60 mm give or take 0.3 mm at 0 mm
                marker bed 1 of bed tag 60 mm give or take 0.3 mm at 900 mm
                marker bed 2 of bed tag 60 mm give or take 0.3 mm at 1600 mm
                marker bed 3 of bed tag 60 mm give or take 0.3 mm at 2300 mm
                marker bed 4 of bed tag 60 mm give or take 0.3 mm at 3400 mm
                marker bed 5 of bed tag 60 mm give or take 0.3 mm at 4300 mm

                surface depot tag reads 9 % give or take 2 % on Tag eye

                start Seed trolley at 80 mm give or take 6.3 mm

                """,
            """
                scene A tired pack

                rail 5200 mm of sleepers, closed
                marker depot of depot tag 60 mm give or take 0.3 mm at 0 mm
                marker bed 1 of bed tag 60 mm give or take 0.3 mm at 900 mm
                marker bed 2 of bed tag 60 mm give or take 0.3 mm at 1600 mm
                marker bed 3 of bed tag 60 mm give or take 0.3 mm at 2300 mm
                marker bed 4 of bed tag 60 mm give or take 0.3 mm at 3400 mm
                marker bed 5 of bed tag 60 mm give or take 0.3 mm at 4300 mm

                surface depot tag reads 9 % give or take 2 % on Tag eye

                start Seed trolley at 80 mm give or take 6.3 mm

                battery at 5.2 V

                """,
        ],
        ["Rack hoist"] =
        [
            """
                scene As in the shed
                ends after 60 s

                start Mast at 160 motor deg

                notches of notch on Mast 9 mm long at 620 and 1310 motor deg, before Shelf eye

                load tray 80 g on Tongue, seat 20 mm from the mast
                place shelf 2 is Mast from 1270 to 1400 motor deg with Tongue beyond 250 motor deg

                person taps Order knob 1 s after Main is in Resting

                block Mast 2 s after Main is in Rising for 3 s, in 3 of 100 runs

                goal: tray on shelf 2 within 50 s

                """,
            """
                scene The lamp is off
                ends after 60 s

                start Mast at 160 motor deg

                notches of notch on Mast 9 mm long at 620 and 1310 motor deg, before Shelf eye

                load tray 80 g on Tongue, seat 20 mm from the mast
                place shelf 2 is Mast from 1270 to 1400 motor deg with Tongue beyond 250 motor deg

                person taps Order knob 1 s after Main is in Resting

                light falls by 4 % on Shelf eye from 2 s

                goal: tray on shelf 2 within 50 s

                """,
        ],
        ["Shell sorter"] =
        [
            """
                scene As in the shed
                ends after 90 s

                belt Belt 400 mm
                a white shell 30 mm every 3.5 s give or take 0.4 s, 4 in 10
                a pink scallop 34 mm every 3.5 s give or take 0.4 s, 3 in 10
                a dark mussel 28 mm every 3.5 s give or take 0.4 s, 3 in 10
                Diverter arm at 240 mm sends left bin to left bin, middle bin to middle bin, right bin to right bin
                sticks at 230 mm in 2 of 100 until the belt runs back 20 mm

                goal: at least 20 things off the belt
                never: white shell in middle bin or white shell in right bin
                never: pink scallop in left bin or pink scallop in right bin
                never: dark mussel in left bin or dark mussel in middle bin

                """,
            """
                scene Shells that stick
                ends after 120 s

                belt Belt 400 mm
                a white shell 30 mm every 3.5 s give or take 0.4 s, 4 in 10
                a pink scallop 34 mm every 3.5 s give or take 0.4 s, 3 in 10
                a dark mussel 28 mm every 3.5 s give or take 0.4 s, 3 in 10
                Diverter arm at 240 mm sends left bin to left bin, middle bin to middle bin, right bin to right bin
                sticks at 230 mm in 20 of 100 until the belt runs back 20 mm

                goal: at least 20 things off the belt
                never: white shell in middle bin or white shell in right bin
                never: pink scallop in left bin or pink scallop in right bin
                never: dark mussel in left bin or dark mussel in middle bin

                """,
        ],
        ["Buoy picker"] =
        [
            """
                scene As in the shed
                ends after 40 s

                thing buoy round 40 mm 60 g lies at water, crushed above 6 N give or take 1 N, slips below 2 N give or take 0.3 N

                start Boom at 60 motor deg
                start Jaws at closed

                place water is Boom from -30 to 40 motor deg with Winch beyond 780 motor deg
                place deck is Boom from 470 to 540 motor deg

                hand 62 mm give or take 14 mm before Reach at 3 s for 6 s

                goal: buoy on deck within 35 s

                """,
            """
                scene A slippery buoy
                ends after 40 s

                thing buoy round 40 mm 60 g lies at water, crushed above 6 N give or take 1 N, slips below 2.6 N give or take 0.3 N

                start Boom at 60 motor deg
                start Jaws at closed

                place water is Boom from -30 to 40 motor deg with Winch beyond 780 motor deg
                place deck is Boom from 470 to 540 motor deg

                hand 62 mm give or take 14 mm before Reach at 3 s for 6 s

                goal: buoy on deck within 35 s

                """,
        ],
        ["Header tank"] =
        [
            """
                scene As in the shed
                ends after 120 s

                tank basin 2 l high 200 mm, starts at 30 %
                Pump brings 0.15 l/s at 80 %
                Drain flap at open lets out 0.3 l/s
                leaks 0.002 l/s
                basin gives 0.07 l/s give or take 0.03 l/s for 8 s give or take 3 s every 15 s give or take 4 s
                Pump runs dry at 40 s give or take 20 s for 12 s, in 30 of 100 runs

                person holds Silence button 15 s after Water is in Dry for 2.5 s each time
                reacts in 3 s give or take 2 s

                """,
            """
                scene No water
                ends after 120 s

                tank basin 2 l high 200 mm, starts at 30 %
                Pump brings 0.15 l/s at 80 %
                Drain flap at open lets out 0.3 l/s
                leaks 0.002 l/s
                basin gives 0.07 l/s give or take 0.03 l/s for 8 s give or take 3 s every 15 s give or take 4 s
                Pump runs dry at 20 s for 60 s

                person holds Silence button 15 s after Water is in Dry for 2.5 s each time
                reacts in 3 s give or take 2 s

                """,
        ],
        ["Berthing lights"] =
        [
            $"""
                scene As in the shed
                ends after 60 s

                {BoatComes} at 2 s, stays 5 s, leaves at 250 mm/s
                boat comes before Berth range from 1700 mm to 300 mm give or take 8 mm at 220 mm/s at 32 s, stays 12 s, leaves at 250 mm/s

                readings of Berth range are lost 2 of 5

                goal: Main is in Berthed within 30 s

                """,
            """
                scene A boat that waits
                ends after 60 s

                boat comes before Berth range from 1700 mm to 254 mm give or take 4 mm at 220 mm/s at 2 s, stays 40 s, leaves at 250 mm/s

                readings of Berth range are lost 1 of 50

                goal: Main is in Close within 30 s

                """,
        ],
        ["Deck scrubber"] =
        [
            """
                scene As in the shed
                ends after 90 s

                deck 760 by 560 mm of deck, drop beyond

                place middle 520 by 320 mm at (350, 280)

                thing bollard round 50 mm at (690, 400), fixed
                10 things crumb round 18 mm 3 g at random on middle, 60 mm apart

                start Drive at (120, 130) facing 0 robot deg give or take 6 mm and 1.5 robot deg

                light falls by 6 % on Left edge eye from 20 s, in 30 of 100 runs

                """,
            """
                scene At a slant
                ends after 60 s

                deck 760 by 560 mm of deck, drop beyond

                place middle 520 by 320 mm at (350, 280)

                10 things crumb round 18 mm 3 g at random on middle, 60 mm apart

                start Drive at (300, 200) facing 62 robot deg give or take 6 mm and 8 robot deg

                """,
        ],
        ["Buoy-line rover"] =
        [
            """
                scene As in the shed
                ends after 60 s

                floor 2400 by 1200 mm of sand

                strip track of line 20 mm wide from (200, 200) to (1900, 200) to (1900, 900) to (300, 900), round 250 mm
                strip of line 60 mm wide from (700, 140) to (700, 260)
                strip of line 60 mm wide from (1300, 140) to (1300, 260)
                strip of line 60 mm wide from (1840, 560) to (1960, 560)
                strip of line 60 mm wide from (1200, 840) to (1200, 960)
                round place fourth 300 mm across at (1150, 900)
                shade 200 by 150 mm at (1000, 200): Line eye falls by 8 %

                start Drive at (240, 190) facing 90 robot deg give or take 3 mm and 2 robot deg

                person taps Start button at 1 s

                goal: stopped over fourth within 50 s
                never: not (Drive within 60 mm of track) for more than 1 s

                """,
            """
                scene In the shade
                ends after 60 s

                floor 2400 by 1200 mm of sand

                strip track of line 20 mm wide from (200, 200) to (1900, 200) to (1900, 900) to (300, 900), round 250 mm
                strip of line 60 mm wide from (700, 140) to (700, 260)
                strip of line 60 mm wide from (1300, 140) to (1300, 260)
                strip of line 60 mm wide from (1840, 560) to (1960, 560)
                strip of line 60 mm wide from (1200, 840) to (1200, 960)
                round place fourth 300 mm across at (1150, 900)
                shade 600 by 150 mm at (1000, 200): Line eye falls by 14 %

                start Drive at (240, 190) facing 90 robot deg give or take 3 mm and 2 robot deg

                person taps Start button at 1 s

                goal: stopped over fourth within 50 s
                never: not (Drive within 60 mm of track) for more than 1 s

                """,
        ],
        ["Lock keeper"] =
        [
            """
                scene As in the shed
                ends after 120 s

                boat asks at Boat button at 3 s, again every 10 s, passes Sea gate at open in 6 s
                barge asks at Keeper button at 20 s, again every 10 s, passes Creek gate at open in 6 s

                messages are lost 1 of 60

                goal: every boat through Sea gate within 120 s
                goal: every barge through Creek gate within 120 s
                never: Sea gate at open and Creek gate at open

                """,
            """
                scene Both at once
                ends after 120 s

                boat asks at Boat button at 3 s, again every 10 s, passes Sea gate at open in 6 s
                barge asks at Keeper button at 3.5 s, again every 10 s, passes Creek gate at open in 6 s

                messages are lost 1 of 20

                goal: every boat through Sea gate within 120 s
                goal: every barge through Creek gate within 120 s
                never: Sea gate at open and Creek gate at open

                """,
        ],
    };
}
