/** Words of the browser, for somebody who looks at something else; where they are allowed. @param {string} words */
export function notice(words) {
  if (document.hidden && "Notification" in window && Notification.permission === "granted") new Notification(words)
}
