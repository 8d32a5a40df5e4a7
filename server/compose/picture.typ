// Draws one picture, to see whether it can be drawn.
#set page(width: 120pt, height: auto, margin: 0pt)
#image("pictures/tried", width: 100pt)
