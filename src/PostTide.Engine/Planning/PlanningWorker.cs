using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using PostTide.Engine.Arrivals;
using PostTide.Engine.Sorting;

namespace PostTide.Engine.Planning;

/// <summary>Plans whatever has arrived, as long as the process runs.</summary>
public sealed partial class PlanningWorker(BatchPlanner planner, OutsideAsker outside, ArrivalSignal signal, ILogger<PlanningWorker> log) : BackgroundService
{
    private static readonly TimeSpan LookAgain = TimeSpan.FromSeconds(2);
    private static readonly TimeSpan AfterTrouble = TimeSpan.FromSeconds(1);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                while (await planner.PlanNextAsync(atArrival: false, stoppingToken, await outside.AskAsync(stoppingToken)) > 0)
                {
                }

                await signal.WaitAsync(LookAgain, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                // Nothing is lost: what was not planned is still marked as arrived.
                LogTrouble(e);
                await Task.Delay(AfterTrouble, stoppingToken);
            }
        }
    }

    [LoggerMessage(LogLevel.Warning, "Planning was interrupted and will go on")]
    private partial void LogTrouble(Exception e);
}
