namespace PostTide.Core.Replies;

/// <summary>A template of a reply, in Liquid.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Body">The text, Liquid over the facts of the sheet and <c>ticket</c>.</param>
/// <param name="AttachmentName">The file that goes with it, or null.</param>
public sealed record ReplyTemplate(long Id, string Name, string Body, string? AttachmentName = null);
