import cv2

# Pictures are small here: sharing one out among threads costs more than it saves.
cv2.setNumThreads(1)
