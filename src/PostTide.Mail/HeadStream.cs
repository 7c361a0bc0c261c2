namespace PostTide.Mail;

/// <summary>Counts what is written to it and keeps the beginning.</summary>
internal sealed class HeadStream(int most) : Stream
{
    private readonly MemoryStream _head = new();
    private long _length;

    public ReadOnlySpan<byte> Head => _head.GetBuffer().AsSpan(0, (int)_head.Length);

    public override bool CanRead => false;
    public override bool CanSeek => false;
    public override bool CanWrite => true;
    public override long Length => _length;

    public override long Position
    {
        get => _length;
        set => throw new NotSupportedException();
    }

    public override void Write(byte[] buffer, int offset, int count) => Write(buffer.AsSpan(offset, count));

    public override void Write(ReadOnlySpan<byte> buffer)
    {
        _length += buffer.Length;
        var left = most - (int)_head.Length;
        if (left > 0)
        {
            _head.Write(buffer[..Math.Min(left, buffer.Length)]);
        }
    }

    public override void Flush()
    {
        // Nothing is held back.
    }

    public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        _head.Dispose();
        base.Dispose(disposing);
    }
}
