namespace PostTide.Engine.Arrivals;

/// <summary>Wakes the planning worker of this process when something has arrived.</summary>
public sealed class ArrivalSignal : IDisposable
{
    private readonly SemaphoreSlim _arrived = new(0, 1);

    public void Arrived()
    {
        try
        {
            _arrived.Release();
        }
        catch (SemaphoreFullException)
        {
            // It is awake already.
        }
    }

    public void Dispose() => _arrived.Dispose();

    /// <summary>Waits for a signal, or for the time to pass: another process may have stored mail.</summary>
    public Task WaitAsync(TimeSpan atMost, CancellationToken stop) => _arrived.WaitAsync(atMost, stop);
}
