using Chiton.Core.Logbook;
using Chiton.Core.Motion;
using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Server.Parts;

/// <summary>Every calculation as one call.</summary>
public static class SumEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var sums = api.MapGroup("/sums").WithTags("Sums");
        sums.MapGet("", () => Catalogue.Value).WithName("getSums");
        sums.MapPost("/threshold", Answer<ThresholdResult> (ThresholdInput input) => ThresholdSum.Compute(input))
            .WithName("sumThreshold")
            .ProducesValidationProblem();
        sums.MapPost("/marker-pass", Answer<MarkerPassResult> (MarkerPassInput input) => MarkerPass.Compute(input))
            .WithName("sumMarkerPass")
            .ProducesValidationProblem();
        sums.MapPost("/zones", Answer<ZonesResult> (ZonesInput input) => ZonesSum.Compute(input))
            .WithName("sumZones")
            .ProducesValidationProblem();
        sums.MapPost("/colours", Answer<ColoursResult> (ColoursInput input) => Colours.Compute(input))
            .WithName("sumColours")
            .ProducesValidationProblem();
        sums.MapPost("/sweep", Answer<SweepResult> (SweepInput input) => Sweep.Compute(input))
            .WithName("sumSweep")
            .ProducesValidationProblem();
        sums.MapPost("/stop-distance", Answer<StopDistanceResult> (StopDistanceInput input) => StopDistance.Compute(input))
            .WithName("sumStopDistance")
            .ProducesValidationProblem();
        sums.MapPost("/edge-guard", Answer<EdgeGuardResult> (EdgeGuardInput input) => EdgeGuard.Compute(input))
            .WithName("sumEdgeGuard")
            .ProducesValidationProblem();
        sums.MapPost("/reaction", Answer<ReactionResult> (ReactionInput input) => Reaction.Compute(input))
            .WithName("sumReaction")
            .ProducesValidationProblem();
        sums.MapPost("/stop-gap", Answer<StopGapResult> (StopGapInput input) => StopGap.Compute(input))
            .WithName("sumStopGap")
            .ProducesValidationProblem();
        sums.MapPost("/beam-cross", Answer<BeamCrossResult> (BeamCrossInput input) => BeamCross.Compute(input))
            .WithName("sumBeamCross")
            .ProducesValidationProblem();
        sums.MapPost("/on-off", Answer<OnOffResult> (OnOffInput input) => OnOff.Compute(input))
            .WithName("sumOnOff")
            .ProducesValidationProblem();
        sums.MapPost("/lift-torque", Answer<LiftTorqueResult> (LiftTorqueInput input) => LiftTorque.Compute(input))
            .WithName("sumLiftTorque")
            .ProducesValidationProblem();
        sums.MapPost("/input-scale", Answer<InputScaleResult> (InputScaleInput input) => InputScale.Compute(input))
            .WithName("sumInputScale")
            .ProducesValidationProblem();
        sums.MapPost("/wheel-way", Answer<WheelWayResult> (WheelWayInput input) => WheelWay.Compute(input))
            .WithName("sumWheelWay")
            .ProducesValidationProblem();
        sums.MapPost("/push-over", Answer<PushOverResult> (PushOverInput input) => PushOver.Compute(input))
            .WithName("sumPushOver")
            .ProducesValidationProblem();
        sums.MapPost("/echo", Answer<EchoResult> (EchoInput input) => Echo.Compute(input)).WithName("sumEcho").ProducesValidationProblem();
        sums.MapPost("/power-budget", Answer<PowerBudgetResult> (PowerBudgetInput input) => PowerBudget.Compute(input))
            .WithName("sumPowerBudget")
            .ProducesValidationProblem();
        sums.MapPost("/signal-level", Answer<SignalLevelResult> (SignalLevelInput input) => SignalLevel.Compute(input))
            .WithName("sumSignalLevel")
            .ProducesValidationProblem();
        sums.MapPost("/success-rate", Answer<SuccessRateResult> (SuccessRateInput input) => SuccessRate.Compute(input))
            .WithName("sumSuccessRate")
            .ProducesValidationProblem();
        sums.MapPost("/wheel-travel", Answer<WheelTravelResult> (WheelTravelInput input) => WheelTravel.Compute(input))
            .WithName("sumWheelTravel")
            .ProducesValidationProblem();
        sums.MapPost("/turn", Answer<TurnResult> (TurnInput input) => Turn.Compute(input)).WithName("sumTurn").ProducesValidationProblem();
        sums.MapPost("/drive-fit", Answer<DriveFitResult> (DriveFitInput input) => DriveFit.Compute(input))
            .WithName("sumDriveFit")
            .ProducesValidationProblem();
        sums.MapPost("/gear-train", Answer<GearTrainResult> (GearTrainInput input) => GearTrain.Compute(input))
            .WithName("sumGearTrain")
            .ProducesValidationProblem();
        sums.MapPost("/click-encoder", Answer<ClickEncoderResult> (ClickEncoderInput input) => ClickEncoder.Compute(input))
            .WithName("sumClickEncoder")
            .ProducesValidationProblem();
        sums.MapPost("/axis-travel", Answer<AxisTravelResult> (AxisTravelInput input) => AxisTravel.Compute(input))
            .WithName("sumAxisTravel")
            .ProducesValidationProblem();
        sums.MapPost("/load-seat", Answer<LoadSeatResult> (LoadSeatInput input) => LoadSeat.Compute(input))
            .WithName("sumLoadSeat")
            .ProducesValidationProblem();
        sums.MapPost("/move-end", Answer<MoveEndResult> (MoveEndInput input) => MoveEnd.Compute(input))
            .WithName("sumMoveEnd")
            .ProducesValidationProblem();
        sums.MapPost("/path-error", Answer<PathErrorResult> (PathErrorInput input) => PathError.Compute(input))
            .WithName("sumPathError")
            .ProducesValidationProblem();
        sums.MapPost("/line-switch", Answer<LineSwitchResult> (LineSwitchInput input) => LineSwitch.Compute(input))
            .WithName("sumLineSwitch")
            .ProducesValidationProblem();
        sums.MapPost("/line-gain", Answer<LineGainResult> (LineGainInput input) => LineGain.Compute(input))
            .WithName("sumLineGain")
            .ProducesValidationProblem();
        sums.MapPost("/stick-mix", Answer<StickMixResult> (StickMixInput input) => StickMix.Compute(input))
            .WithName("sumStickMix")
            .ProducesValidationProblem();
        sums.MapPost("/meter", Answer<MeterResult> (MeterInput input) => Meter.Compute(input))
            .WithName("sumMeter")
            .ProducesValidationProblem();
        sums.MapPost("/branches", Answer<BranchesResult> (BranchesInput input) => Branches.Compute(input))
            .WithName("sumBranches")
            .ProducesValidationProblem();
        sums.MapPost("/compare-rates", Answer<CompareRatesResult> (CompareRatesInput input) => CompareRates.Compute(input))
            .WithName("sumCompareRates")
            .ProducesValidationProblem();
        sums.MapPost("/match-plan", Answer<MatchPlanResult> (MatchPlanInput input) => MatchPlan.Compute(input))
            .WithName("sumMatchPlan")
            .ProducesValidationProblem();
        sums.MapPost("/{name}", (string name) => Results.Problem(title: $"There is no sum “{name}”.", statusCode: 404))
            .WithName("sumOfNoName")
            .ExcludeFromDescription();
    }

    /// <summary>Every sum as a sentence with blanks, and what results are called.</summary>
    /// <remarks>A test holds that no sum's answer is missing.</remarks>
    internal static readonly Lazy<SumCatalogue> Catalogue = new(() =>
        SumCatalogue.Of([
            typeof(ThresholdResult),
            typeof(MarkerPassResult),
            typeof(ZonesResult),
            typeof(ColoursResult),
            typeof(SweepResult),
            typeof(StopDistanceResult),
            typeof(EdgeGuardResult),
            typeof(ReactionResult),
            typeof(PushOverResult),
            typeof(EchoResult),
            typeof(PowerBudgetResult),
            typeof(SignalLevelResult),
            typeof(SuccessRateResult),
            typeof(WheelTravelResult),
            typeof(TurnResult),
            typeof(DriveFitResult),
            typeof(GearTrainResult),
            typeof(ClickEncoderResult),
            typeof(AxisTravelResult),
            typeof(LoadSeatResult),
            typeof(MoveEndResult),
            typeof(PathErrorResult),
            typeof(LineSwitchResult),
            typeof(LineGainResult),
            typeof(StickMixResult),
            typeof(MeterResult),
            typeof(BranchesResult),
            typeof(CompareRatesResult),
            typeof(MatchPlanResult),
            typeof(StopGapResult),
            typeof(BeamCrossResult),
            typeof(OnOffResult),
            typeof(LiftTorqueResult),
            typeof(InputScaleResult),
            typeof(WheelWayResult),
        ])
    );
}
